// Treatments, each by what it promises.
#include "listen/spectrum.h"
#include "shape/bands.h"
#include "shape/isolate.h"
#include "shape/order.h"
#include "support.h"

#include <QTest>
#include <complex>
#include <numeric>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr double kRate48 = 48000;
const TreatFrame kFrame{Bpm(120), 4, Hertz(48000), Material::Tones}; // a beat is 24 000 frames

Channels both(Samples mono) { return {mono, std::move(mono)}; }

/// Every sample says where it stood.
Channels counted(std::size_t frames) {
  Samples out(frames);
  for (std::size_t i = 0; i < frames; ++i) out[i] = float(i + 1) / float(frames + 1);
  return both(std::move(out));
}

double power(std::span<const float> samples) {
  double sum = 1e-20;
  for (float s : samples) sum += double(s) * double(s);
  return sum;
}

/// The frequency with the most energy.
double loudestHz(std::span<const float> samples) {
  constexpr int size = 32768;
  Fft fft(size);
  for (std::size_t i = 0; i < size; ++i)
    fft.input()[i] =
        i < samples.size()
            ? samples[i] *
                  float(0.5 - 0.5 * std::cos(2 * M_PI * double(i) /
                                             double(std::min<std::size_t>(size, samples.size()))))
            : 0.0f;
  const auto spectrum = fft.run();
  std::size_t best = 1;
  for (std::size_t k = 1; k < spectrum.size(); ++k)
    if (std::norm(spectrum[k]) > std::norm(spectrum[best])) best = k;
  return double(best) * kRate48 / size;
}

/// Signal to distortion, in dB.
double sdr(std::span<const float> truth, std::span<const float> got) {
  double error = 1e-20;
  for (std::size_t i = 0; i < truth.size(); ++i)
    error += std::pow(double(truth[i]) - double(got[i]), 2);
  return 10 * std::log10(power(truth) / error);
}

/// A treatment with some settings by their ids.
Treatment with(Treatment t, std::initializer_list<std::pair<std::string_view, double>> settings) {
  for (const auto& [id, value] : settings) {
    bool found = false;
    for (const auto& one : typeOf(t).parameters)
      if (one.parameter.id == id) {
        one.set(t, value);
        found = true;
      }
    if (!found) qFatal("no setting");
  }
  return t;
}

} // namespace

class TestTreat : public QObject {
  Q_OBJECT

  JobContext m_job;

  void done(Channels& sound, const Treatment& t) {
    const auto result = applyTreatment(sound, t, kFrame, m_job);
    QVERIFY2(result.ok(), result.ok() ? "" : result.error().text().c_str());
  }

private slots:
  // ---- pieces ----

  void lengthsAreForetoldToTheFrame() {
    const Channels before = counted(3 * 24000 + 17);
    const auto foretold = [&](const Treatment& t) {
      Channels sound = before;
      done(sound, t);
      const std::size_t said = framesAfter(before[0].size(), t, kFrame);
      if (said != sound[0].size())
        qWarning("%s: said %zu, made %zu", describe(t).c_str(), said, sound[0].size());
      return said == sound[0].size();
    };
    for (const TreatmentType& type : treatmentTypes()) {
      Treatment t{type.usual};
      QVERIFY(foretold(t));
      // Every setting at either end.
      for (const auto& one : type.parameters)
        for (double end : {one.parameter.least, one.parameter.most}) {
          Treatment other = t;
          one.set(other, end);
          clamp(other);
          QVERIFY(foretold(other));
        }
      t.on = false;
      QVERIFY(foretold(t));
    }
    const treat::Chop chop{.order = {2, 0, 99, 2}};
    QVERIFY(foretold({chop}));
    QCOMPARE(chopOrder(chop, before[0].size(), kFrame), (std::vector<int>{2, 0, 2}));
  }

  void reversedTwiceIsTheSame() {
    Channels sound = counted(5001);
    const Channels before = sound;
    done(sound, Treatment{treat::Reverse{}});
    QCOMPARE(sound[0].front(), before[0].back());
    done(sound, Treatment{treat::Reverse{}});
    QVERIFY(sound == before);
  }

  void alternatingTurnsEverySecondDivision() {
    Channels sound = counted(4 * 12000);
    const Channels before = sound;
    done(sound, with({treat::Alternate{}}, {{"everyBeats", 0.5}}));
    QCOMPARE(sound[0].size(), before[0].size());
    for (std::size_t i : {6000ul, 24000ul + 6000ul}) QCOMPARE(sound[0][i], before[0][i]);
    for (std::size_t i : {3000ul, 6000ul, 9000ul}) // inside the turned ones, away from their fades
      QCOMPARE(sound[0][12000 + i], before[0][23999 - i]);
    Channels other = before;
    done(other, with({treat::Alternate{}}, {{"everyBeats", 0.5}, {"first", 1}}));
    QCOMPARE(other[0][6000], before[0][5999]);
    QCOMPARE(other[0][12000 + 6000], before[0][12000 + 6000]);
  }

  void choppingDealsTheSamePiecesAnew() {
    const Channels before = counted(8 * 12000);
    Channels sound = before, again = before, other = before;
    done(sound, with({treat::Chop{}}, {{"divisionBeats", 0.5}, {"seed", 7}}));
    done(again, with({treat::Chop{}}, {{"divisionBeats", 0.5}, {"seed", 7}}));
    done(other, with({treat::Chop{}}, {{"divisionBeats", 0.5}, {"seed", 8}}));
    QVERIFY(sound == again);
    QVERIFY(sound != other);
    QVERIFY(sound != before);
    QCOMPARE(sound[0].size(), before[0].size());
    std::set<int> seen;
    for (int piece = 0; piece < 8; ++piece) // the middle of a piece says which it was
      seen.insert(int(sound[0][std::size_t(piece * 12000 + 6000)] * 8));
    QCOMPARE(int(seen.size()), 8);
    Treatment byHand = with({treat::Chop{}}, {{"divisionBeats", 0.5}});
    byHand.as<treat::Chop>()->order = {3, 3, 0, 1, 99};
    Channels hand = before;
    done(hand, byHand); // a piece that is not there is left out
    QCOMPARE(hand[0].size(), std::size_t(4 * 12000));
    QCOMPARE(hand[0][6000], before[0][3 * 12000 + 6000]);
    QCOMPARE(hand[0][12000 + 6000], before[0][3 * 12000 + 6000]);
    // Pieces that go on as in the sound are joined without a fade.
    QCOMPARE(hand[0][3 * 12000 - 1], before[0][12000 - 1]);
    QCOMPARE(hand[0][3 * 12000], before[0][12000]);
  }

  void joinsAreNoSteeperThanTheSound() {
    const Channels before = both(sine(180, 2, kRate48));
    const auto steepest = [](const Channels& sound) {
      float most = 0;
      for (std::size_t i = 1; i < sound[0].size(); ++i)
        most = std::max(most, std::abs(sound[0][i] - sound[0][i - 1]));
      return most;
    };
    for (const char* id : {"alternate", "chop", "stutter", "slow-down", "start-up"}) {
      Channels sound = before;
      done(sound, {treatmentType(id)->usual});
      // A fade of 1 ms may add to a slow wave's own steps; a click would be 40 times as steep.
      QVERIFY2(steepest(sound) < 2.5f * steepest(before), id);
    }
  }

  void stutterRepeatsThenGoesOnInTime() {
    const Channels before = counted(4 * 24000);
    Channels sound = before;
    done(sound, with({treat::Stutter{}}, {{"divisionBeats", 0.25}, {"count", 4}}));
    QCOMPARE(sound[0].size(), before[0].size());
    for (std::size_t n = 0; n < 4; ++n)
      QVERIFY(std::abs(sound[0][n * 6000 + 3000] - before[0][3000]) < 1e-5f);
    QCOMPARE(sound[0][30000], before[0][30000]);
    Channels ramped = before;
    done(ramped,
         with({treat::Stutter{}}, {{"divisionBeats", 0.25}, {"count", 4}, {"rampDb", -12}}));
    QVERIFY(std::abs(ramped[0][3 * 6000 + 3000] / before[0][3000] - 0.2512f) < 1e-3f); // −12 dB
    Channels risen = both(sine(400, 2, kRate48));
    done(risen, with({treat::Stutter{}}, {{"divisionBeats", 1}, {"count", 3}, {"pitchSt", 12}}));
    QVERIFY(std::abs(loudestHz(std::span(risen[0]).subspan(48000, 24000)) - 800) < 4);
  }

  // ---- speed ----

  void slowingDownStopsAtTheEnd() {
    // Speed falls in a straight line: half of the pitch half way (2^(n/12), n = −12).
    Channels sound = both(sine(2000, 4, kRate48));
    const std::size_t frames = sound[0].size();
    done(sound, with({treat::SlowDown{}}, {{"beats", 4}, {"curve", 1}}));
    QCOMPARE(sound[0].size(), frames);
    const auto at = [&](double s) {
      return loudestHz(std::span(sound[0]).subspan(std::size_t(s * kRate48) - 512, 1024));
    };
    QVERIFY(std::abs(at(1) - 2000) < 60);
    QVERIFY(std::abs(at(3) - 1000) < 60); // the way is from 2 s to 4 s
    QVERIFY(power(std::span(sound[0]).last(240)) < 1e-3 * power(std::span(sound[0]).first(240)));
  }

  void startingUpIsInTimeAfterwards() {
    const Channels before = counted(6 * 24000);
    Channels sound = before;
    done(sound, with({treat::StartUp{}}, {{"beats", 2}, {"curve", 1}}));
    QCOMPARE(sound[0].size(), before[0].size());
    QCOMPARE(sound[0][60000], before[0][60000]);
    QVERIFY(std::abs(sound[0][47990] - before[0][47990]) < 1e-3f); // no jump where it arrives
    Channels tone = both(sine(2000, 3, kRate48));
    done(tone, with({treat::StartUp{}}, {{"beats", 4}, {"curve", 1}}));
    QVERIFY(std::abs(loudestHz(std::span(tone[0]).subspan(47488, 1024)) - 1000) < 60);
  }

  void halfAndDoubleTimeKeepWhatTheySay() {
    const double hz = 500;
    for (int method = 0; method < 3; ++method)
      for (int factor = 0; factor < 2; ++factor) {
        Channels sound = both(sine(hz, 4, kRate48));
        done(sound, with({treat::Speed{}}, {{"factor", factor}, {"method", method}}));
        QCOMPARE(sound[0].size(), std::size_t(4 * kRate48 * (factor == 0 ? 2 : 0.5)));
        const double wanted = method == 0 ? (factor == 0 ? hz / 2 : hz * 2) : hz;
        const double got = loudestHz(std::span(sound[0]).subspan(12000, 32768));
        QVERIFY2(std::abs(got - wanted) < 6, qPrintable(QString::number(got)));
      }
    // Over one bar (two seconds): its first second takes both, then it goes on in time.
    const Channels before = counted(4 * 48000);
    Channels some = before;
    done(some, with({treat::Speed{}}, {{"bars", 1}, {"method", 0}}));
    QCOMPARE(some[0].size(), before[0].size());
    QVERIFY(std::abs(some[0][48000] - before[0][24000]) < 1e-3f);
    QCOMPARE(some[0][3 * 48000], before[0][3 * 48000]);
  }

  void theOctaveCopyLiesUnderTheSound() {
    Channels sound = both(sine(440, 3, kRate48));
    const std::size_t frames = sound[0].size();
    done(sound, with({treat::Octave{}}, {{"octaves", -1}, {"levelDb", -6}}));
    QCOMPARE(sound[0].size(), frames);
    const Channels own = both(sine(440, 3, kRate48));
    Samples copy(frames);
    for (std::size_t i = 0; i < frames; ++i) copy[i] = sound[0][i] - own[0][i];
    const auto middle = std::span(copy).subspan(48000, 48000);
    QVERIFY(std::abs(loudestHz(middle) - 220) < 2);
    const double level =
        10 * std::log10(power(middle) / power(std::span(own[0]).subspan(48000, 48000)));
    QVERIFY2(std::abs(level + 6) < 0.5, qPrintable(QString::number(level)));
  }

  // ---- levels ----

  void fadesFollowTheirCurve() {
    Channels sound = both(Samples(4 * 24000, 1.0f)), in = sound;
    done(sound, with({treat::Fade{}}, {{"where", 1}, {"beats", 2}, {"curve", 1}}));
    QCOMPARE(sound[0][47000], 1.0f);
    QVERIFY(std::abs(sound[0][72000] - 0.5f) < 1e-4f);
    QVERIFY(sound[0].back() < 1e-4f);
    done(in, with({treat::Fade{}}, {{"where", 0}, {"beats", 2}, {"curve", 2}}));
    QVERIFY(std::abs(in[0][24000] - 0.25f) < 1e-4f);
  }

  void theSwellArrivesExactlyOnItsBeat() {
    Samples hit(48000, 0.0f);
    addHit(hit, 0, kRate48, 200, 0.5);
    for (int from : {0, 1}) {
      Channels sound = both(hit);
      done(sound, with({treat::Swell{}}, {{"beats", 2}, {"from", from}}));
      QCOMPARE(sound[0].size(), std::size_t(48000 + 48000));
      // From its beat on it is the sound itself, to the sample.
      QVERIFY(std::equal(hit.begin(), hit.end(), sound[0].begin() + 48000));
      const auto rise = [&](std::size_t frame) {
        return power(std::span(sound[0]).subspan(frame, 4800));
      };
      QVERIFY(rise(42000) > 4 * rise(24000));
      QVERIFY(rise(24000) > rise(2400) || from == 0);
      QVERIFY(std::abs(sound[0][47999]) < 0.2f * peakOf(std::span(hit)));
    }
    Treatment t = with({treat::Swell{}}, {{"beats", 2}, {"then", 1}});
    Channels alone = both(hit);
    done(alone, t);
    QCOMPARE(alone[0].size(), std::size_t(48000));
    QCOMPARE(leadBeats({t, Treatment{treat::Reverse{}}}), 2.0);
    t.on = false;
    QCOMPARE(leadBeats({t}), 0.0);
  }

  // ---- parts of a sound ----

  void bandsAddUpToAFlatWhole() {
    // Linkwitz 1976: both ways of a crossing add up to an all-pass. An impulse says it for every
    // frequency; owed within 0.1 dB.
    for (const auto& [low, high] : {std::pair{200.0, 2500.0}, {80.0, 400.0}, {1000.0, 12000.0}}) {
      Samples sum(32768, 0.0f);
      for (int band = 0; band < 3; ++band) {
        Samples impulse(32768, 0.0f);
        impulse[100] = 1;
        Channels sound = both(std::move(impulse));
        done(sound, with({treat::Band{}}, {{"keep", band}, {"lowHz", low}, {"highHz", high}}));
        for (std::size_t i = 0; i < sum.size(); ++i) sum[i] += sound[0][i];
      }
      Fft fft(32768);
      std::copy(sum.begin(), sum.end(), fft.input().begin());
      double worst = 0;
      for (const auto& bin : fft.run())
        worst = std::max(worst, std::abs(10 * std::log10(double(std::norm(bin)))));
      QVERIFY2(worst < 0.1, qPrintable(QString::number(worst)));
    }
    // 6 dB down at the crossing, 24 dB an octave.
    Channels tone = both(sine(200, 2, kRate48));
    const double before = power(std::span(tone[0]).last(48000));
    done(tone, with({treat::Band{}}, {{"keep", 0}, {"lowHz", 200}, {"highHz", 2500}}));
    QVERIFY(std::abs(10 * std::log10(power(std::span(tone[0]).last(48000)) / before) + 6.02) < 0.1);
  }

  void centreAndSidesAddUpToTheSound() {
    const auto shared = sine(300, 1, kRate48), left = sine(700, 1, kRate48, 0.2);
    Channels sound{shared, shared};
    for (std::size_t i = 0; i < left.size(); ++i) {
      sound[0][i] += left[i];
      sound[1][i] -= left[i];
    }
    Channels centre = sound, sides = sound;
    keepSides(centre, false);
    keepSides(sides, true);
    QVERIFY(sdr(shared, centre[0]) > 100);
    QVERIFY(sdr(left, sides[0]) > 100);
    for (std::size_t i = 0; i < sound[1].size(); i += 97)
      QVERIFY(std::abs(centre[1][i] + sides[1][i] - sound[1][i]) < 1e-6f);
  }

  void hitsAndTonesAreToldApart() {
    Samples tones(48000 * 4, 0.0f), hits(tones.size(), 0.0f), mix(tones.size());
    for (double hz : {220.0, 277.2, 329.6, 440.0, 660.0}) {
      const auto partial = sine(hz, 4, kRate48, 0.08);
      for (std::size_t i = 0; i < tones.size(); ++i) tones[i] += partial[i];
    }
    for (int b = 0; b < 16; ++b) addHit(hits, b * 0.25, kRate48, b % 4 ? 5000 : 900, 1.0, 0.4);
    for (std::size_t i = 0; i < mix.size(); ++i) mix[i] = tones[i] + hits[i];
    Channels kept = both(mix), rest = both(mix);
    done(kept, Treatment{treat::Isolate{}});
    done(rest, with({treat::Isolate{}}, {{"keep", 1}}));
    QVERIFY(sdr(hits, kept[0]) > sdr(hits, mix) + 8);
    QVERIFY(sdr(tones, rest[0]) > sdr(tones, mix) + 8);
    double worst = 0;
    for (std::size_t i = 0; i < mix.size(); ++i)
      worst = std::max(worst, std::abs(double(kept[0][i] + rest[0][i] - mix[i])));
    QVERIFY(worst < 1e-5); // nothing is lost between them
    Channels all = both(mix);
    done(all, with({treat::Isolate{}}, {{"restDb", 0}})); // the rest at full level
    QVERIFY(sdr(mix, all[0]) > 90);
  }

  void longSoundsAreIsolatedInStretchesWithoutASeam() {
    // Longer than one stretch, which is 2^20 frames.
    Channels sound = both(sine(440, 23, kRate48, 0.3));
    const Channels before = sound;
    done(sound, with({treat::Isolate{}}, {{"keep", 1}}));
    const auto around = std::size_t(1) << 20;
    QVERIFY(sdr(std::span(before[0]).subspan(around - 9600, 19200),
                std::span(sound[0]).subspan(around - 9600, 19200)) > 40);
  }

  // ---- what is wrong or extreme ----

  void extremesAreHeldOrSaid() {
    for (const TreatmentType& type : treatmentTypes()) {
      // One frame, and silence, survive every treatment.
      for (std::size_t frames : {std::size_t(1), std::size_t(3000)}) {
        Channels sound = both(Samples(frames, 0.0f));
        done(sound, {type.usual});
        QVERIFY2(!sound[0].empty() && sound[0].size() == sound[1].size(), type.id.data());
        for (float s : sound[0]) QVERIFY(std::isfinite(s));
      }
      for (double wild : {1e30, -1e30, std::nan(""), double(INFINITY)}) {
        Treatment t{type.usual};
        for (const auto& one : type.parameters) one.set(t, wild);
        if (auto* chop = t.as<treat::Chop>()) chop->order = {-4, 1 << 20};
        clamp(t);
        for (const auto& one : type.parameters) {
          const double value = one.get(t);
          QVERIFY2(value >= one.parameter.least && value <= one.parameter.most, type.id.data());
        }
        if (const auto* chop = t.as<treat::Chop>()) QVERIFY(chop->order.empty());
      }
    }
    Channels longSound = both(Samples(kMostTreatedFrames, 0.0f));
    const auto result = applyTreatment(longSound, Treatment{treat::Swell{}}, kFrame, m_job);
    QVERIFY(!result.ok());
    QVERIFY(QString::fromStdString(result.error().text()).contains("ten minutes"));
    JobContext cancelled;
    cancelled.cancel();
    Channels sound = counted(100);
    QVERIFY(!applyTreatment(sound, Treatment{treat::Reverse{}}, kFrame, cancelled).ok());
  }

  void treatmentsAreDescribedInAFewWords() {
    for (const auto& [what, said] :
         {std::pair<Treatment::What, const char*>{treat::Reverse{}, "Reverse"},
          {treat::Alternate{1.0 / 3}, "Alternate: 1/3 beat, forward"},
          {treat::Speed{}, "Half or double time: half time, stretch"},
          {treat::Speed{treat::Speed::To::DoubleTime, 2, FitMethod::Repitch},
           "Half or double time: double time, over 2 bars, repitch"},
          {treat::Octave{-1, Decibels(-6)}, "Octave copy: -1, level -6 dB"},
          {treat::Stutter{0.25, 4, Decibels(0), Semitones(0)},
           "Stutter: 1/4 beat, times 4, ramp 0 dB, pitch 0 st"},
          {treat::Chop{0.5, 3, {}}, "Chop and reorder: 1/2 beat, seed 3"},
          {treat::Chop{0.5, 3, {1, 0}}, "Chop and reorder: 1/2 beat, by hand"},
          {treat::Sides{}, "Centre or sides: centre"}}) {
      Treatment treatment;
      treatment.what = what;
      QCOMPARE(QString::fromStdString(describe(treatment)), QString(said));
    }
  }

  void whatIsOffIsNotHeard() {
    Channels sound = counted(4000);
    const Channels before = sound;
    Treatment off = Treatment{treat::Reverse{}};
    off.on = false;
    done(sound, off);
    QVERIFY(sound == before);
  }

  // ---- loops ----

  void aLoopGoesRoundWithoutAStep() {
    // A tone that does not fit its loop: the crossfade has to join it.
    BakeOrder order;
    order.loop.on = true;
    order.loop.from = 0.3;
    order.loop.to = 0.9;
    order.loop.crossfade = Milliseconds(20);
    const auto tone = sine(233, 1, kRate48);
    const auto base = makeSound(tone);
    const auto made = finishOrder(order, base, m_job);
    QVERIFY(made.ok());
    const auto samples = made->sound->channel(0);
    QCOMPARE(made->loopEnd, 43200);
    QCOMPARE(made->loopStart, 14400 + 960);
    // Twice round, read as the engine reads it.
    Samples out;
    std::int64_t at = 0;
    for (int i = 0; i < 100'000; ++i) {
      out.push_back(samples[std::size_t(at)]);
      if (++at == made->loopEnd) at = made->loopStart;
    }
    float steepest = 0;
    for (std::size_t i = 1; i < out.size(); ++i)
      steepest = std::max(steepest, std::abs(out[i] - out[i - 1]));
    const float own = 2 * float(M_PI) * 233 / 48000 * 0.5f;
    QVERIFY2(steepest < 1.3f * own, qPrintable(QString::number(double(steepest / own))));
    // What follows the end is what follows the start.
    for (std::int64_t i = 0; i < 1000; ++i)
      QCOMPARE(samples[std::size_t(made->loopEnd + i)], samples[std::size_t(made->loopStart + i)]);
    // A loop of next to nothing.
    order.loop.from = 0.99;
    order.loop.to = 1;
    order.loop.crossfade = Milliseconds(500);
    QVERIFY(finishOrder(order, makeSound({0.1f, 0.2f, 0.3f}), m_job).ok());
  }
};

QTEST_GUILESS_MAIN(TestTreat)
#include "tst_treat.moc"
