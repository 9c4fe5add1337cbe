#include "audio/resample.h"
#include "formats/shipped.h"
#include "listen/spectrum.h"
#include "play/engine.h"
#include "play/print.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// A project that plays one sound once on the first beat.
Project playOnce(SoundPtr sound, Semitones tune, int bars = 1,
                 const std::function<void(Key&)>& change = {}) {
  Id source = 0, key = 0;
  Project p = withSource({}, sourceOf(std::move(sound)), &source);
  p.tempo = Bpm(60);
  p = withKeySound(std::move(p), Row::Body, 0, 0, {source, 0}, "tone", &key);
  p = withKeyChanged(std::move(p), key, [&](Key& k) {
    k.tune = tune;
    if (change) change(k);
  });
  Pattern pattern;
  pattern.bars = bars;
  Hit hit;
  hit.key = key;
  hit.velocity = 1;
  laneOf(pattern, findKey(p, key)->part).hits = {hit};
  Id id = 0;
  p = withPattern(std::move(p), pattern, &id);
  Section section;
  section.pattern = id;
  section.bars = bars;
  return withSection(std::move(p), section, 0);
}

SoundPtr printed(const Project& project, bool limiter = false) {
  JobContext job;
  PrintOptions options;
  options.limiter = limiter;
  auto sound = print(compileSong(project), options, job);
  return sound ? *sound : nullptr;
}

/// Everything but a sine of known frequency, in dB below it: a least-squares fit is taken away.
double residualDb(std::span<const float> samples, double hz) {
  const double w = 2 * M_PI * hz / 48000;
  double cc = 0, ss = 0, cs = 0, xc = 0, xs = 0;
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const double c = std::cos(w * double(i)), s = std::sin(w * double(i)), x = double(samples[i]);
    cc += c * c;
    ss += s * s;
    cs += c * s;
    xc += x * c;
    xs += x * s;
  }
  const double d = cc * ss - cs * cs, a = (xc * ss - xs * cs) / d, b = (xs * cc - xc * cs) / d;
  double signal = 0, rest = 0;
  for (std::size_t i = 0; i < samples.size(); ++i) {
    const double fit = a * std::cos(w * double(i)) + b * std::sin(w * double(i));
    signal += fit * fit;
    rest += (double(samples[i]) - fit) * (double(samples[i]) - fit);
  }
  return 10 * std::log10(rest / signal);
}

} // namespace

class TestEngine : public QObject {
  Q_OBJECT

private slots:
  void levelsOfPatchesThatCannotBeAreNone() {
    Engine engine;
    for (int patch : {-1, 0, Engine::kMostPatches - 1, Engine::kMostPatches})
      QCOMPARE(engine.takeLevel(patch), 0.0f);
  }

  void repitchedSinesAreClean_data() {
    QTest::addColumn<double>("shift");
    for (double shift : {7.0, -7.0, 0.37, -12.0})
      QTest::newRow(qPrintable(QString::number(shift))) << shift;
  }
  void repitchedSinesAreClean() {
    // 997 Hz is the usual test tone: a prime, so that it shares no period with the rate (AES17).
    QFETCH(double, shift);
    const auto sound = printed(playOnce(makeSound(sine(997, 6, 48000, 0.5)), Semitones(shift)));
    const auto middle = sound->channel(0).subspan(20000, 60000);
    const double db = residualDb(middle, 997 * std::exp2(shift / 12));
    QVERIFY2(db < -90, qPrintable(QString::number(db)));
  }

  void nothingFoldsBack() {
    // 15 kHz an octave up is 30 kHz, past half the rate: silence is the right answer.
    const auto sound = printed(playOnce(makeSound(sine(15000, 6, 48000, 0.5)), Semitones(12)));
    double square = 0;
    const auto middle = sound->channel(0).subspan(20000, 60000);
    for (float v : middle) square += double(v) * double(v);
    const double db = 10 * std::log10(square / double(middle.size()) / 0.125);
    QVERIFY2(db < -80, qPrintable(QString::number(db)));
  }

  void repitchAgreesWithAnIndependentResampler() {
    // Played four semitones up it must be what libsoxr makes of it at 48000 · 2^(−4/12).
    const auto noisy = [&] {
      Samples tones(96000, 0.0f); // up to 8 kHz: the band that both let through whole
      for (double hz : {61.0, 440.3, 1234.5, 2750.0, 4999.0, 7900.0}) {
        const auto tone = sine(hz, 2, 48000, 0.1);
        for (std::size_t i = 0; i < tones.size(); ++i) tones[i] += tone[i];
      }
      return tones;
    }();
    const auto ours = printed(playOnce(makeSound(noisy), Semitones(4)));
    const auto theirs = resample(noisy, Hertz(48000 * std::exp2(4 / 12.0)), Hertz(48000));
    double apart = 0, all = 0;
    for (std::size_t i = 5000; i < 60000; ++i) {
      apart += std::pow(double(ours->channel(0)[i]) - double(theirs[i]), 2);
      all += std::pow(double(theirs[i]), 2);
    }
    QVERIFY2(10 * std::log10(apart / all) < -70,
             qPrintable(QString::number(10 * std::log10(apart / all))));
  }

  void unmovedSoundPassesExactly() {
    const auto tone = makeSound(sine(440, 1, 48000, 0.5));
    const auto sound = printed(playOnce(tone, Semitones(0)), true);
    for (std::size_t i = 0; i < 48000; ++i) QCOMPARE(sound->channel(0)[i], tone->channel(0)[i]);
  }

  void eventsStandOnTheirFrame() {
    Random random(17);
    for (int round = 0; round < 6; ++round) {
      std::vector<double> beats;
      for (int i = 0; i < 7; ++i) beats.push_back(double(i) + double(random.next() % 64) / 64.0);
      const double bpm = 70 + 90 * random.unit();
      auto made = clickProject(beats, bpm);
      const auto clicks = clicksIn(*printed(made.project));
      QCOMPARE(clicks.size(), beats.size());
      for (std::size_t i = 0; i < beats.size(); ++i)
        QCOMPARE(clicks[i], std::llround(beats[i] * 60 / bpm * 48000));
    }
  }

  void theSongIsAsLongAsItsBars() {
    const auto made = clickProject({0}, 93.7, 2);
    QCOMPARE(printed(made.project)->frames().value, std::llround(8 * 60 / 93.7 * 48000));
    JobContext job;
    PrintOptions ring;
    ring.ring = Seconds(1.5);
    QCOMPARE((*print(compileSong(made.project), ring, job))->frames().value,
             std::llround(8 * 60 / 93.7 * 48000) + 72000);
    QVERIFY(!print(compileSong(Project{}), {}, job).ok());
  }

  void blocksDoNotMatter() {
    JobContext job;
    const Project demo = *shippedDemo(TUVVO_DATA_DIR, job);
    const auto score = std::make_shared<Score>(compileSong(demo));
    const auto run = [&](std::uint64_t seed) {
      Engine engine;
      engine.setScore(score);
      engine.send({Engine::Command::Kind::Play});
      Random random(seed);
      Samples left(48000 * 4), right(left.size());
      std::size_t at = 0;
      while (at < left.size()) {
        const std::size_t n =
            std::min<std::size_t>(left.size() - at, seed == 0 ? 128 : 1 + random.next() % 700);
        engine.process(left.data() + at, right.data() + at, int(n));
        at += n;
      }
      return left;
    };
    const auto even = run(0);
    QVERIFY(run(1) == even);
    QVERIFY(run(2) == even);
  }

  void stemsAddUpToTheMix() {
    JobContext job;
    Project demo = *shippedDemo(TUVVO_DATA_DIR, job);
    demo.sections = {demo.sections[2]};
    demo.sections[0].bars = 2;
    PrintOptions dry;
    dry.limiter = false;
    const auto mix = *print(compileSong(demo), dry, job);
    std::vector<double> sum(std::size_t(mix->frames().value), 0.0);
    for (const auto& part : demo.parts) {
      CompileOptions only;
      only.onlyPart = part.id;
      const auto stem = *print(compileSong(demo, only), dry, job);
      QCOMPARE(stem->frames(), mix->frames());
      for (std::size_t i = 0; i < sum.size(); ++i) sum[i] += double(stem->channel(0)[i]);
    }
    for (std::size_t i = 0; i + 300 < sum.size(); ++i)
      QVERIFY(std::abs(sum[i] - double(mix->channel(0)[i])) < 2e-5);
  }

  /// A peak that comes in the very frame in which a higher one leaves the window is held down as
  /// well: what lies beside it is turned down with it, and not the peak alone cut off.
  void limiterSeesThePeakThatComesAsAnotherLeaves() {
    for (int apart = 60; apart <= 68; ++apart) {
      Limiter limiter;
      Samples out;
      for (int i = 0; i < 400; ++i) {
        float l = i == 100 ? 2.0f : i == 100 + apart ? 1.6f : 0.4f, r = 0;
        limiter.process(l, r);
        out.push_back(l);
      }
      for (int beside : {-2, 2}) {
        const auto at = std::size_t(100 + apart + Limiter::kLatency + beside);
        QVERIFY2(out[at] < 0.4f * Limiter::kCeiling / 1.6f * 1.03f,
                 qPrintable(QString("%1: %2").arg(apart).arg(double(out[at]))));
      }
    }
  }

  void limiterHoldsTheCeilingAndLeavesTheRest() {
    Limiter limiter;
    Random random(5);
    Samples in(20000), out(20000);
    for (std::size_t i = 0; i < in.size(); ++i) {
      in[i] = float((i > 6000 && i < 9000 ? 6.0 : 0.5) * random.bipolar());
      float l = in[i], r = -in[i];
      limiter.process(l, r);
      out[i] = l;
      QVERIFY(std::abs(l) <= Limiter::kCeiling && std::abs(r) <= Limiter::kCeiling);
    }
    for (std::size_t i = Limiter::kLatency; i < 6000; ++i)
      QCOMPARE(out[i], in[i - Limiter::kLatency]);
    QVERIFY(limiter.gain() < 1.0f);
  }

  void levelsPanAndMutes() {
    const auto tone = makeSound(Samples(48000, 0.25f));
    const auto left = printed(playOnce(tone, Semitones(0), 1, [](Key& k) { k.pan = -1; }));
    QVERIFY(std::abs(left->channel(1)[10000]) < 1e-6f);
    QCOMPARE(left->channel(0)[10000], 0.25f);
    const auto quiet =
        printed(playOnce(tone, Semitones(0), 1, [](Key& k) { k.level = Decibels(-6.0206); }));
    QVERIFY(std::abs(quiet->channel(0)[10000] - 0.125f) < 1e-5f);
    Project muted = playOnce(tone, Semitones(0));
    muted.parts[0].muted = true;
    QCOMPARE(peakOf(*printed(muted), Frames(0), Frames(96000)), 0.0f);
  }

  void envelopeRisesFallsAndEnds() {
    const auto flat = makeSound(Samples(96000, 0.5f));
    Project p = playOnce(flat, Semitones(0), 1, [](Key& k) {
      k.envelope.attack = Milliseconds(100);
      k.envelope.decay = Milliseconds(200);
      k.envelope.sustain = 0.5;
      k.envelope.release = Milliseconds(100);
      k.gate = true;
    });
    p = withPatternChanged(p, p.patterns[0]->id, [](Pattern& x) {
      x.lanes[0].hits[0].length = wholeBeats(1);
    }); // one second
    const auto sound = printed(p);
    const auto s = sound->channel(0);
    QVERIFY(std::abs(s[2400] - 0.25f) < 0.01f); // half way up
    QVERIFY(std::abs(s[4800] - 0.5f) < 0.01f);
    QVERIFY(std::abs(s[30000] - 0.25f) < 0.01f); // sustained
    QVERIFY(s[49000] < 0.2f && s[49000] > 0.0f); // let go at one second
    QVERIFY(std::abs(s[56000]) < 1e-3f);
  }

  void chokedKeysEndEachOther() {
    auto made = clickProject({}, 60, 1);
    Id source = 0, a = 0, b = 0;
    Project p = withSource(made.project, sourceOf(makeSound(Samples(96000, 0.3f))), &source);
    p = withKeySound(p, Row::Air, 0, 0, {source, 0}, "open", &a);
    p = withKeySound(p, Row::Air, 1, 0, {source, 0}, "closed", &b);
    for (Id key : {a, b}) p = withKeyChanged(p, key, [](Key& k) { k.choke = 3; });
    p = withPatternChanged(p, made.pattern, [&](Pattern& x) {
      Hit hit;
      hit.velocity = 1;
      hit.key = a;
      laneOf(x, findKey(p, a)->part).hits = {hit};
      hit.key = b;
      hit.at = Beats(kTicksPerBeat / 2);
      laneOf(x, findKey(p, b)->part).hits = {hit};
    });
    const auto sound = printed(p);
    const auto s = sound->channel(0);
    QVERIFY(std::abs(s[23000] - 0.3f) < 1e-3f);
    QVERIFY(std::abs(s[26000] - 0.3f) < 1e-3f); // never both at once after the fade
  }

  void chokeFadesWithoutAClick() {
    // The largest step between samples while one slow tone is cut by its own repeat.
    Project p = playOnce(makeSound(sine(50, 2, 48000, 0.5)), Semitones(0), 1, [](Key& k) {
      k.choke = 1;
      k.envelope.attack = Milliseconds(5);
    });
    p = withPatternChanged(p, p.patterns[0]->id, [](Pattern& x) {
      Hit again = x.lanes[0].hits[0];
      again.at = Beats(kTicksPerBeat * 305 / 1000);
      x.lanes[0].hits.push_back(again);
    });
    const auto sound = printed(p);
    const auto s = sound->channel(0);
    float step = 0;
    for (std::size_t i = 1; i < 48000; ++i) step = std::max(step, std::abs(s[i] - s[i - 1]));
    QVERIFY2(step < 0.012f, qPrintable(QString::number(double(step))));
  }

  void manyVoicesAtOnce() {
    // 64 long voices sound together; past the pool the oldest give way and nothing breaks.
    auto made = clickProject({}, 60, 1);
    Id source = 0, key = 0;
    Project p = withSource(made.project, sourceOf(makeSound(Samples(48000 * 4, 0.01f))), &source);
    p = withKeySound(p, Row::Air, 0, 0, {source, 0}, "long", &key);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compileSong(p)));
    Samples l(128), r(128);
    engine.process(l.data(), r.data(), 128);
    for (int i = 0; i < 300; ++i) {
      Engine::Command strike{Engine::Command::Kind::Strike};
      strike.key = key;
      strike.velocity = 1;
      engine.send(strike);
      engine.process(l.data(), r.data(), 128);
      if (i == 63) QCOMPARE(engine.sounding(), 64);
      QVERIFY(engine.sounding() <= Engine::kVoices);
    }
  }

  void loopsGoRoundAndLeansMicroTimingOut() {
    auto made = clickProject({0}, 120, 1);
    Project p = withPatternChanged(made.project, made.pattern, [](Pattern& x) {
      x.lanes[0].hits[0].microTiming = Milliseconds(-10);
    });
    Engine engine;
    engine.setLimiterOff();
    engine.setScore(std::make_shared<Score>(compilePattern(p, made.pattern)));
    engine.send({Engine::Command::Kind::Play});
    Channels both(2, Samples(96000 * 2 + 4000));
    engine.process(both[0].data(), both[1].data(), int(both[0].size()));
    const auto clicks = clicksIn(Sound(both, kEngineRate));
    // At once, then 10 ms before every later one.
    QCOMPARE(clicks, (std::vector<std::int64_t>{0, 96000 - 480, 192000 - 480}));
  }

  void countInIsABarOfClicksThenTheMusic() {
    auto made = clickProject({0}, 120, 1);
    Engine engine;
    engine.setLimiterOff();
    engine.setScore(std::make_shared<Score>(compilePattern(made.project, made.pattern)));
    Engine::Command play{Engine::Command::Kind::Play};
    play.frame = EngineFrames(-96000);
    engine.send(play);
    Samples l(96200), r(96200);
    engine.process(l.data(), r.data(), 95999);
    QVERIFY(engine.position() == EngineFrames(-1));
    const auto clicks = clicksIn(Sound({l, r}, kEngineRate), 0.15f);
    QVERIFY(clicks.size() >= 4);
    engine.process(l.data(), r.data(), 2);
    QVERIFY(std::abs(l[1]) > 0.4f); // the first hit, exactly on the bar
  }

  void aNewScoreKeepsThePlaceInBeats() {
    auto made = clickProject({0}, 120, 4);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compileSong(made.project)));
    engine.send({Engine::Command::Kind::Play});
    Samples l(48000), r(48000);
    engine.process(l.data(), r.data(), 48000); // two beats at 120
    made.project.tempo = Bpm(60);
    engine.setScore(std::make_shared<Score>(compileSong(made.project)));
    engine.process(l.data(), r.data(), 480);
    QCOMPARE(engine.position().value, std::int64_t(2 * 48000 + 480));
  }

  void strikesAreReportedWithTheirPlace() {
    auto made = clickProject({}, 120, 1);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compilePattern(made.project, made.pattern)));
    engine.send({Engine::Command::Kind::Play});
    Samples l(1000), r(1000);
    engine.process(l.data(), r.data(), 1000);
    Engine::Command strike{Engine::Command::Kind::Strike};
    strike.key = made.key;
    engine.send(strike);
    engine.process(l.data(), r.data(), 10);
    Engine::Report report{};
    QVERIFY(engine.nextReport(report));
    QCOMPARE(report.frame.value, std::int64_t(1000));
    QCOMPARE(report.key, made.key);
  }

  void unknownKeysAndEmptyScoresAreHarmless() {
    Engine engine;
    Samples l(64), r(64);
    for (auto kind : {Engine::Command::Kind::Play, Engine::Command::Kind::Strike,
                      Engine::Command::Kind::Seek, Engine::Command::Kind::Stop})
      engine.send({kind});
    engine.process(l.data(), r.data(), 64);
    engine.setScore(std::make_shared<Score>());
    for (auto kind :
         {Engine::Command::Kind::Play, Engine::Command::Kind::Strike, Engine::Command::Kind::Seek})
      engine.send({kind});
    engine.process(l.data(), r.data(), 64);
    for (float v : l) QCOMPARE(v, 0.0f);
  }

  void fileNamesAreSafe() {
    QCOMPARE(fileNameOf("a/b:c"), std::string("a-b-c"));
    QCOMPARE(fileNameOf(" .. "), std::string("untitled"));
    QCOMPARE(fileNameOf("../etc"), std::string("-etc"));
  }
};

QTEST_APPLESS_MAIN(TestEngine)
#include "tst_engine.moc"
