#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/analyse.h"
#include "listen/harmony.h"
#include "listen/hum.h"
#include "listen/intake.h"
#include "listen/levels.h"
#include "listen/onsets.h"
#include "listen/tap_tempo.h"
#include "support.h"

#include <QtTest>
#include <set>

using namespace tuvvo;
using namespace tuvvo::test;

class TestListen : public QObject {
  Q_OBJECT
  JobContext m_job;

  static Samples mono22(const Samples& at44) { return resample(at44, Hertz(44100), Hertz(22050)); }

  /// A chord of decaying tones with five harmonics, added at a place.
  static void addChord(Samples& out, double atS, double lengthS, std::initializer_list<int> notes,
                       double gain = 0.1) {
    const auto at = std::size_t(atS * 44100);
    for (int note : notes)
      for (int h = 1; h <= 5; ++h) {
        const double w = 2 * M_PI * frequencyOf(note).value * h / 44100;
        for (std::size_t i = 0; i < std::size_t(lengthS * 44100) && at + i < out.size(); ++i)
          out[at + i] +=
              float(gain / h * std::sin(w * double(i)) * std::exp(-double(i) / (0.6 * 44100)) *
                    std::min(1.0, double(i) / 200));
      }
  }

  static std::vector<FaultHeard> faultsOf(const Sound& sound) {
    LoudnessMeter meter(sound.channels(), sound.rate());
    meter.take(sound.channel(0), sound.channel(1));
    return meter.faults();
  }

private slots:
  void loopTempoIsExact_data() {
    QTest::addColumn<double>("bpm");
    for (double bpm : {72.5, 88.0, 93.37, 101.0, 118.25, 133.0})
      QTest::newRow(qPrintable(QString::number(bpm))) << bpm;
  }
  void loopTempoIsExact() {
    QFETCH(double, bpm);
    const auto heard = analyse(*drumLoop(bpm, 16), m_job);
    QVERIFY(heard.tempo.has_value());
    const double ratio = heard.tempo->bpm.value / bpm;
    const bool level =
        std::abs(ratio - 1) < 1e-4 || std::abs(ratio - 2) < 2e-4 || std::abs(ratio - 0.5) < 1e-4;
    QVERIFY2(level, qPrintable(QString::number(heard.tempo->bpm.value)));
    QVERIFY(heard.loop.has_value());
    QVERIFY(heard.tempo->steady);
    QVERIFY(!heard.downbeats.empty());
    QCOMPARE(heard.downbeats.front().value, 0.0);
    const double beat = 60 / heard.tempo->bpm.value;
    for (std::size_t i = 0; i < heard.beats.size(); ++i) // the lattice is the length's own
      QVERIFY(std::abs(heard.beats[i].value - double(i) * beat) < 1e-6);
  }

  void halfAndDoubleAreOffered() {
    const auto heard = analyse(*drumLoop(100, 16), m_job);
    QStringList relations;
    for (const auto& a : heard.tempo->alternatives) relations << QString::fromStdString(a.relation);
    QVERIFY(relations.contains("half"));
    QVERIFY(relations.contains("double"));
  }

  /// From 40 to 240 BPM, both of them.
  void halfAndDoubleAreOfferedWhereTheyCanBeFelt() {
    for (double bpm : {79.8, 80.2, 119.8, 120.3}) {
      const auto heard = analyse(*drumLoop(bpm, 16), m_job);
      QVERIFY(heard.tempo && std::abs(heard.tempo->bpm.value - bpm) < 0.01);
      const auto offers = [&](const char* relation) {
        return std::any_of(heard.tempo->alternatives.begin(), heard.tempo->alternatives.end(),
                           [&](const auto& a) { return a.relation == relation; });
      };
      QCOMPARE(offers("half"), bpm > 80);
      QCOMPARE(offers("double"), bpm < 120);
    }
  }

  void onsetsAndCutPointsAreWhereTheHitsAre() {
    Samples out(44100 * 4, 0.0f);
    std::vector<double> truth;
    Random random(2);
    for (double at = 0.21; at < 3.8; at += 0.2 + 0.15 * random.unit()) {
      addHit(out, at, 44100, truth.size() % 2 ? 190 : 62, 0.8);
      truth.push_back(at);
    }
    const auto onsets = OnsetFinder().find(*makeSound(out, 44100), m_job);
    QCOMPARE(onsets.size(), truth.size());
    for (std::size_t i = 0; i < truth.size(); ++i) {
      QVERIFY2(std::abs(onsets[i].at.value - truth[i]) < 0.004,
               qPrintable(QString("%1 %2").arg(onsets[i].at.value).arg(truth[i])));
      QVERIFY(onsets[i].cut.value <= truth[i] + 0.0015); // the blade goes in before the attack
    }
  }

  // Sounds of the kit that ships, alone and together, at known places.
  void hitsAreNamed() {
    Samples out(48000 * 4, 0.0f);
    const auto strike = [&](const char* name, double atS, float gain) {
      const auto file = decodeFile(std::string(TUVVO_DATA_DIR) + "/kit/" + name, m_job);
      const auto samples = file->sound->channel(0);
      const auto at = std::size_t(atS * 48000);
      for (std::size_t i = 0; i < samples.size() && at + i < out.size(); ++i)
        out[at + i] += gain * samples[i];
    };
    strike("01 kick.flac", 0.3, 0.8f);
    strike("14 hat.flac", 0.8, 0.4f);
    strike("07 snare.flac", 1.3, 0.7f);
    strike("14 hat.flac", 1.8, 0.4f);
    strike("01 kick.flac", 2.3, 0.8f);
    strike("14 hat.flac", 2.3, 0.4f);
    strike("07 snare.flac", 2.9, 0.7f);
    const auto onsets = OnsetFinder().find(*makeSound(out, 48000), m_job);
    const auto named = [&](double atS, HitClass hit) {
      for (const auto& onset : onsets)
        if (std::abs(onset.at.value - atS) < 0.01)
          return std::find(onset.hits.begin(), onset.hits.end(), hit) != onset.hits.end();
      return false;
    };
    for (double at : {0.3, 2.3}) QVERIFY(named(at, HitClass::Kick));
    for (double at : {0.8, 1.8, 2.3}) QVERIFY(named(at, HitClass::Hat));
    for (double at : {1.3, 2.9}) QVERIFY(named(at, HitClass::Snare));
    QVERIFY(!named(0.8, HitClass::Kick) && !named(0.3, HitClass::Snare));
    QCOMPARE(int(onsets.size()), 6); // struck together is one place
    QVERIFY(onsets[0].brightness < onsets[1].brightness);
  }

  // Rises in noise are nobody's hits.
  void noiseHasNoHits() {
    Random random(4);
    Samples out(22050 * 4);
    for (std::size_t i = 0; i < out.size(); ++i)
      out[i] = float(0.3 * random.bipolar() * (1 + 0.5 * std::sin(double(i) / 9000)));
    QVERIFY(OnsetFinder().find(std::span<const float>(out), m_job).size() <= 1); // its beginning
  }

  void gainChangesNothing() {
    const auto loud = drumLoop(97, 16);
    auto samples = Samples(loud->channel(0).begin(), loud->channel(0).end());
    for (float& v : samples) v *= 0.125f; // exact: a power of two
    const auto a = analyse(*loud, m_job), b = analyse(*makeSound(samples, 44100), m_job);
    QCOMPARE(a.onsets.size(), b.onsets.size());
    for (std::size_t i = 0; i < a.onsets.size(); ++i)
      QVERIFY(std::abs(a.onsets[i].cut.value - b.onsets[i].cut.value) < 1e-3);
    QVERIFY(std::abs(a.tempo->bpm.value - b.tempo->bpm.value) < 1e-6);
  }

  void silenceInFrontShiftsEverything() {
    const auto plain = OnsetFinder().find(*drumLoop(110, 8), m_job);
    const auto later = OnsetFinder().find(*drumLoop(110, 8, 44100, 1.0), m_job);
    QCOMPARE(plain.size(), later.size());
    for (std::size_t i = 0; i < plain.size(); ++i)
      QVERIFY(std::abs(later[i].at.value - plain[i].at.value - 1.0) < 0.003);
  }

  void silenceNoiseAndSingleHitsHaveNoTempo_data() {
    QTest::addColumn<int>("kind");
    QTest::newRow("silence") << 0;
    QTest::newRow("click") << 1;
    QTest::newRow("dc") << 2;
    QTest::newRow("one frame") << 3;
  }
  void silenceNoiseAndSingleHitsHaveNoTempo() {
    QFETCH(int, kind);
    Samples out(kind == 3 ? 1 : 44100 * 3, kind == 2 ? 0.5f : 0.0f);
    if (kind == 1) addHit(out, 0.5, 44100, 80, 0.5);
    const auto heard = analyse(*makeSound(out, 44100), m_job);
    QVERIFY(!heard.tempo);
    QVERIFY(heard.beats.empty());
    QVERIFY(!heard.loop);
  }

  void aNightRecordingHasNoTempo() {
    const auto file = decodeFile(std::string(TUVVO_DATA_DIR) + "/demo/quay at night.flac", m_job);
    QVERIFY(file.ok());
    QVERIFY(!analyse(*file->sound, m_job).tempo);
  }

  void theDemoLoopReportsItsTrueTempoAndCents() {
    // The tool that made it ran a 90 BPM loop 34 cents fast: 90 · 2^(34/1200) = 91.785 BPM.
    const auto file = decodeFile(std::string(TUVVO_DATA_DIR) + "/demo/lantern row.flac", m_job);
    QVERIFY(file.ok());
    const auto heard = analyse(*file->sound, m_job);
    QVERIFY(std::abs(heard.tempo->bpm.value - 90 * std::exp2(34 / 1200.0)) < 0.005);
    QVERIFY(std::abs(heard.key->tuning.value - 34) < 3);
    QCOMPARE(heard.loop->bars, 4);
  }

  void driftIsSaid() {
    const auto file = decodeFile(std::string(TUVVO_DATA_DIR) + "/demo/pier nine break.flac", m_job);
    const auto heard = analyse(*file->sound, m_job);
    QVERIFY(heard.tempo && !heard.tempo->steady);
    QVERIFY(heard.tempo->drift.value > 15);
  }

  void tuningOfDetunedTones() {
    for (double cents : {-35.0, 0.0, 22.0}) {
      Samples out(44100 * 2, 0.0f);
      for (double note : {57.0, 60.0, 64.0, 69.0}) {
        const auto tone = sine(frequencyOf(note + cents / 100).value, 2, 44100, 0.15);
        for (std::size_t i = 0; i < out.size(); ++i) out[i] += tone[i];
      }
      QVERIFY(std::abs(analyseHarmony(mono22(out), m_job).tuning.value - cents) < 2);
    }
  }

  void keyOfACadence() {
    // I IV V I in D major, and its minor counterpart.
    for (bool minor : {false, true}) {
      Samples out;
      const int third = minor ? 3 : 4;
      for (int root : {50, 55, 57, 50}) {
        Samples chord(44100, 0.0f);
        for (int step : {0, root == 57 ? 4 : third, 7, 12})
          for (int h = 1; h <= 5; ++h) {
            const auto tone = sine(frequencyOf(root + step).value * h, 1, 44100, 0.12 / h);
            for (std::size_t i = 0; i < chord.size(); ++i)
              chord[i] += tone[i] * std::min(1.0f, float(44100 - i) / 2000);
          }
        out.insert(out.end(), chord.begin(), chord.end());
      }
      const auto key = analyse(*makeSound(out, 44100), m_job).key;
      QVERIFY(key.has_value());
      QCOMPARE(QString::fromStdString(nameOf(key->name)), minor ? QString("Dm") : QString("D"));
    }
  }

  void noiseHasNoKey() {
    Random random(8);
    Samples out(44100 * 2);
    for (float& v : out) v = float(random.bipolar() * 0.3);
    QVERIFY(!analyse(*makeSound(out, 44100), m_job).key);
  }

  // Four bars of one chord each, with drums under them: truth by construction.
  void chordsByBeat() {
    const double beat = 60 / 100.0;
    Samples out(std::size_t(16 * beat * 44100), 0.0f);
    const std::vector<std::pair<std::string, std::vector<int>>> bars{{"Am", {45, 57, 60, 64}},
                                                                     {"F", {41, 53, 57, 60}},
                                                                     {"C", {48, 55, 60, 64}},
                                                                     {"G", {43, 55, 59, 62}}};
    for (int b = 0; b < 16; ++b) {
      addHit(out, b * beat, 44100, b % 2 ? 200 : 60, b % 2 ? 0.6 : 0.1, 0.25);
      const auto& n = bars[std::size_t(b / 4)].second;
      addChord(out, b * beat, beat, {n[0], n[1], n[2], n[3]});
    }
    const auto heard = analyse(*makeSound(out, 44100), m_job);
    QVERIFY(heard.chords.size() >= 4);
    for (int bar = 0; bar < 4; ++bar) {
      const double middle = (bar * 4 + 2) * beat;
      std::string name;
      for (const auto& chord : heard.chords)
        if (chord.start.value <= middle && middle < chord.end.value) name = chord.name;
      QCOMPARE(QString::fromStdString(name), QString::fromStdString(bars[std::size_t(bar)].first));
    }
  }

  // The same, shown by the notes themselves: what is found is what was put there.
  void notesAreFound() {
    Samples out(44100 * 2, 0.0f);
    addChord(out, 0, 2, {48, 64, 67});
    const Harmony harmony = analyseHarmony(mono22(out), m_job);
    const auto notes = NoteFinder().find(harmony.between(0.2, 1.5));
    std::vector<std::pair<float, int>> ranked;
    for (int n = 0; n < Harmony::kNotes; ++n)
      ranked.emplace_back(notes[std::size_t(n)], n + Harmony::kLowNote);
    std::sort(ranked.rbegin(), ranked.rend());
    std::set<int> best{ranked[0].second, ranked[1].second, ranked[2].second};
    QCOMPARE(best, (std::set<int>{48, 64, 67}));
  }

  void harmonyChangesWhereItChanges() {
    Samples out(44100 * 4, 0.0f);
    addChord(out, 0, 2, {45, 57, 60, 64});
    addChord(out, 2, 2, {43, 55, 59, 62});
    const Harmony harmony = analyseHarmony(mono22(out), m_job);
    const auto change = harmony.changeAt(1.2, 2.0, 2.8), none = harmony.changeAt(0.2, 1.0, 1.8);
    QVERIFY(change.all > 3 * none.all);
    QVERIFY(change.bass > 3 * none.bass);
    QCOMPARE(harmony.changeAt(1.0, 1.01, 1.02).all, 0.0); // nothing between: nothing said
  }

  // Halving the speed halves the tempo and lowers the key by twelve semitones: the same key.
  void halfSpeedIsHalfTheTempo() {
    const double beat = 60 / 140.0;
    Samples out(std::size_t(32 * beat * 44100), 0.0f);
    const int roots[] = {45, 41, 48, 43};
    for (int b = 0; b < 32; ++b) {
      addHit(out, b * beat, 44100, b % 2 ? 200 : 60, b % 2 ? 1.0 : 0.15, 0.4);
      addHit(out, (b + 0.5) * beat, 44100, 7000, 0.6, 0.2);
      const int root = roots[b / 4 % 4], third = root == 45 ? 3 : 4;
      addChord(out, b * beat, beat, {root, root + 12, root + 12 + third, root + 19}, 0.06);
    }
    const auto heard = analyse(*makeSound(out, 44100), m_job);
    const auto slow = analyse(*makeSound(out, 22050), m_job); // the same samples, half the rate
    QVERIFY(heard.tempo && slow.tempo && heard.key && slow.key);
    double ratio = heard.tempo->bpm.value / slow.tempo->bpm.value;
    while (ratio > 2.9) ratio /= 2; // the level that is felt may change with the speed
    while (ratio < 1.4) ratio *= 2;
    QVERIFY2(std::abs(ratio - 2) < 0.002, qPrintable(QString::number(ratio)));
    QCOMPARE(slow.key->name, heard.key->name);
  }

  void meters_data() {
    QTest::addColumn<int>("meter");
    for (int meter : {3, 4, 5, 7}) QTest::newRow(qPrintable(QString::number(meter))) << meter;
  }
  void meters() {
    QFETCH(int, meter);
    const double beat = 60 / 110.0;
    const int bars = 60 / meter;
    // Cut away from any bar, so that the length says nothing.
    Samples out(std::size_t((bars * meter + 0.37) * beat * 44100), 0.0f);
    const int roots[] = {45, 50, 52, 45};
    for (int b = 0; b < bars * meter; ++b) {
      const int inBar = b % meter, root = roots[b / meter % 4];
      addHit(out, b * beat, 44100, inBar == 0 ? 60 : 200, inBar == 0 ? 0.1 : 0.7,
             inBar == 0 ? 0.5 : 0.22);
      addChord(out, b * beat, beat, {root, root + 12, root + 15, root + 19}, 0.05);
    }
    const auto heard = analyse(*makeSound(out, 44100), m_job);
    QVERIFY(heard.tempo);
    QCOMPARE(heard.meter, meter);
    for (std::size_t i = 0; i + 1 < heard.downbeats.size(); ++i) {
      const double bar = heard.downbeats[i].value / (beat * meter);
      QVERIFY2(std::abs(bar - std::round(bar)) < 0.03, qPrintable(QString::number(bar)));
    }
  }

  // Six eighths: a low on the first, a high on the fourth, every eighth played; and a shuffle,
  // which leaves the middle of three out, is no 6/8.
  void sixEighths_data() {
    QTest::addColumn<bool>("shuffle");
    QTest::newRow("six eighths") << false;
    QTest::newRow("shuffle") << true;
  }
  void sixEighths() {
    QFETCH(bool, shuffle);
    const double eighth = 0.21, bar = 6 * eighth;
    const int bars = 24;
    Samples out(std::size_t((bars * bar + 0.17) * 44100), 0.0f);
    const int roots[] = {45, 50, 52, 45};
    for (int e = 0; e < bars * 6; ++e) {
      const int inBar = e % 6, root = roots[e / 6 % 4];
      if (inBar % 3 == 0)
        addHit(out, e * eighth, 44100, inBar == 0 ? 60 : 200, inBar == 0 ? 0.1 : 0.7, 0.5);
      if (!shuffle || inBar % 3 != 1) addHit(out, e * eighth, 44100, 6000, 0.9, 0.12);
      if (inBar == 0) addChord(out, e * eighth, bar, {root, root + 12, root + 15, root + 19}, 0.05);
    }
    const auto heard = analyse(*makeSound(out, 44100), m_job);
    QVERIFY(heard.tempo);
    QVERIFY2(std::abs(heard.tempo->bpm.value - 60 / (3 * eighth)) < 0.1,
             qPrintable(QString::number(heard.tempo->bpm.value)));
    if (shuffle) {
      QCOMPARE(meterName(heard), std::string("4/4"));
      return;
    }
    QCOMPARE(meterName(heard), std::string("6/8"));
    for (const Seconds& down : heard.downbeats) {
      const double at = down.value / bar;
      QVERIFY2(std::abs(at - std::round(at)) < 0.03, qPrintable(QString::number(at)));
    }
  }

  void aLoopOfThreesCountsItsOwnBars() {
    const double beat = 60 / 108.0;
    Samples out(std::size_t(std::llround(12 * beat * 44100)), 0.0f);
    const int roots[] = {50, 47, 43, 45};
    for (int b = 0; b < 12; ++b) {
      const int root = roots[b / 3];
      if (b % 3 == 0) addChord(out, b * beat, beat, {root, root}, 0.15);
      addHit(out, b * beat, 44100, b % 3 == 0 ? 60 : 400, 0.4, b % 3 == 0 ? 0.5 : 0.2);
      addChord(out, b * beat, beat, {root + 12, root + 16, root + 19}, b % 3 ? 0.08 : 0.03);
    }
    const auto heard = analyse(*makeSound(out, 44100), m_job);
    QVERIFY(heard.loop && heard.loop->exact);
    QCOMPARE(heard.meter, 3);
    QCOMPARE(heard.loop->bars, 4);
    QCOMPARE(heard.downbeats.size(), std::size_t(4));
    const auto fours = analyse(*drumLoop(108, 12), m_job); // and three bars of four stay that
    QVERIFY2(fours.loop && fours.meter == 4 && fours.loop->bars == 3,
             qPrintable(QString("%1 %2 %3")
                            .arg(fours.tempo->bpm.value)
                            .arg(fours.meter)
                            .arg(fours.loop ? fours.loop->bars : 0)));
  }

  // A pulse that wanders by 3 % is followed; the truth is the positions the hits were put at.
  void wanderingBeatsAreFollowed() {
    std::vector<double> beats;
    double at = 0.3;
    while (at < 38) {
      beats.push_back(at);
      at += 60 / (104 * (1 + 0.03 * std::sin(2 * M_PI * at / 19)));
    }
    Samples out(44100 * 39, 0.0f);
    for (std::size_t b = 0; b < beats.size(); ++b) {
      addHit(out, beats[b], 44100, b % 2 ? 200 : 60, b % 2 ? 1.0 : 0.15);
      if (b + 1 < beats.size()) addHit(out, (beats[b] + beats[b + 1]) / 2, 44100, 7000, 0.6, 0.25);
    }
    const auto heard = analyse(*makeSound(out, 44100), m_job);
    QVERIFY(heard.tempo && !heard.tempo->steady);
    int near = 0;
    for (double beat : beats)
      for (const auto& b : heard.beats)
        if (std::abs(b.value - beat) < 0.03) {
          ++near;
          break;
        }
    QVERIFY2(near >= int(beats.size() * 9 / 10), qPrintable(QString::number(near)));
    QVERIFY(std::abs(heard.tempo->bpm.value - 104) < 1.5);
  }

  // 50 and 60 Hz with harmonics are hum; the lowest G and B of a bass, held as long, are not.
  void humIsTellableFromABassNote() {
    const auto drone = [](double hz) {
      Samples out(44100 * 8, 0.0f);
      for (int h = 1; h <= 4; ++h) {
        const auto tone = sine(hz * h, 8, 44100, 0.01 / h);
        for (std::size_t i = 0; i < out.size(); ++i) out[i] += tone[i];
      }
      for (int b = 0; b < 16; ++b) addHit(out, b * 0.5, 44100, b % 2 ? 200 : 70, 0.6);
      return measureHum(mono22(out));
    };
    for (double mains : {50.0, 60.0}) {
      const auto fault = drone(mains);
      QVERIFY(fault && fault->kind == "hum");
      QCOMPARE(fault->figure, mains);
      QVERIFY(std::abs(fault->second + 40) < 2); // dBFS, in the quietest tenth of the frames
    }
    for (double note : {31.0, 35.0, 34.0, 32.0}) // G1, B1, A#1, G#1
      QVERIFY(!drone(frequencyOf(note).value));
    QVERIFY(!measureHum(Samples(22050 * 2, 0.1f))); // too short to say
  }

  void thePictureHasThePeakOfEachColumn() {
    Samples ramp(1000);
    for (std::size_t i = 0; i < ramp.size(); ++i)
      ramp[i] = (i % 2 ? -1.0f : 1.0f) * float(i) / 2000;
    const auto picture = pictureOf(ramp, 4);
    QCOMPARE(picture.size(), std::size_t(4));
    for (std::size_t c = 0; c < 4; ++c) // the last sample of each quarter, against the loudest
      QCOMPARE(int(picture[c]), int(std::lround(255 * (250.0 * double(c + 1) - 1) / 999)));
    QCOMPARE(pictureOf(Samples(8, 0.0f), 4), std::vector<std::uint8_t>(4, 0));
  }

  void deadAirIsNamed() {
    Samples out(22050 * 6, 0.0f);
    for (std::size_t i = 11025; i < 44100; ++i) out[i] = 0.3f * float(std::sin(double(i) / 20));
    for (std::size_t i = 22050 * 5; i < 22050 * 5 + 9000; ++i) out[i] = 0.3f;
    const auto fault = findDeadAir(out);
    QVERIFY(fault && std::abs(fault->figure - 3.0) < 0.05); // not the half second at the front
    QVERIFY(std::abs(fault->second - 2.0) < 0.05);
    QVERIFY(!findDeadAir(Samples(22050, 0.2f)));
    QVERIFY(!findDeadAir(Samples(22050, 0.0f)));
  }

  void sectionsHaveLettersByLikeness() {
    const double beat = 60 / 120.0;
    Samples out(std::size_t(64 * beat * 44100), 0.0f);
    const std::vector<std::array<int, 2>> chords{{45, 3}, {41, 4}, {45, 3}, {47, 4}};
    for (int b = 0; b < 64; ++b) {
      const int section = b / 16;
      addHit(out, b * beat, 44100, b % 2 ? 200 : 60, b % 2 ? 0.8 : 0.1, 0.4);
      if (section % 2 == 1) addHit(out, (b + 0.5) * beat, 44100, 8000, 0.9, 0.5);
      const auto [root, third] = chords[std::size_t(section)];
      addChord(out, b * beat, beat, {root, root + 12, root + 12 + third, root + 19}, 0.06);
    }
    const auto heard = analyse(*makeSound(out, 44100), m_job);
    std::string letters;
    for (const auto& section : heard.sections) {
      letters += section.label;
      // On bar lines of the truth.
      const double bars = section.start.value / (4 * beat);
      QVERIFY2(std::abs(bars - std::round(bars)) < 0.05, qPrintable(QString::number(bars)));
    }
    QCOMPARE(QString::fromStdString(letters), QString("ABAC"));
  }

  void keyNames() {
    QCOMPARE(QString::fromStdString(nameOf(*keyFromName("Bbm"))), QString("Bbm"));
    QCOMPARE(QString::fromStdString(nameOf(*keyFromName("f#"))), QString("F#"));
    for (const char* bad : {"", "H", "Cx", "m", "C##"}) QVERIFY(!keyFromName(bad));
  }

  void faultsAreNamed() {
    auto clipped = sine(200, 1, 44100, 2.0);
    for (float& v : clipped) v = std::clamp(v, -1.0f, 1.0f);
    const auto has = [](const Sound& sound, const char* kind) {
      for (const auto& fault : faultsOf(sound))
        if (fault.kind == kind) return true;
      return false;
    };
    QVERIFY(has(*makeSound(clipped, 44100), "clipping"));
    auto offset = sine(200, 1, 44100, 0.3);
    for (float& v : offset) v += 0.1f;
    QVERIFY(has(*makeSound(offset, 44100), "dc offset"));
    Samples late(44100, 0.0f);
    addHit(late, 0.5, 44100, 100, 0.5);
    QVERIFY(has(*makeSound(late, 44100), "silence at the front"));
    auto tone = sine(300, 1, 44100, 0.5), against = tone;
    for (float& v : against) v = -v;
    QVERIFY(has(Sound({tone, against}, Hertz(44100)), "inverted"));
    QVERIFY(has(Sound({tone, Samples(tone.size(), 0.0f)}, Hertz(44100)), "one-sided"));
    QVERIFY(faultsOf(*makeSound(sine(200, 1, 44100, 0.3), 44100)).empty());
  }

  /// The figures that the sentence says, as they follow from the two sides; at −60 dBFS as at −6.
  void faultsOfTwoSidesSayTheirFigures() {
    for (const double level : {0.5, 0.001}) {
      const auto tone = sine(300, 1, 44100, level);
      const auto scaled = [&](float by) {
        Samples out = tone;
        for (float& v : out) v *= by;
        return out;
      };
      const auto only = [](const std::vector<FaultHeard>& faults) {
        return faults.size() == 1 ? faults.front() : FaultHeard{"not one fault"};
      };
      const auto right = only(faultsOf(Sound({scaled(0.05f), tone}, Hertz(44100))));
      QCOMPARE(right.kind, std::string("one-sided"));
      QVERIFY(std::abs(right.figure - 20 * std::log10(0.05)) < 0.01);
      const auto left = only(faultsOf(Sound({tone, scaled(0.05f)}, Hertz(44100))));
      QVERIFY(std::abs(left.figure + 20 * std::log10(0.05)) < 0.01);
      const auto turned = only(faultsOf(Sound({tone, scaled(-0.5f)}, Hertz(44100))));
      QCOMPARE(turned.kind, std::string("inverted"));
      QVERIFY(std::abs(turned.figure + 1) < 0.01);
    }
  }

  void tapsBecomeSurer() {
    TapTempo taps;
    Random hand(4);
    QVERIFY(!taps.tempo());
    double last = 1e9;
    for (int i = 0; i < 24; ++i) {
      taps.tap(Seconds(1 + i * 60.0 / 92 + 0.008 * hand.bell()));
      if (i == 3 || i == 11 || i == 23) {
        QVERIFY(taps.tempo()->uncertaintyBpm < last);
        last = taps.tempo()->uncertaintyBpm;
      }
    }
    QVERIFY(std::abs(taps.tempo()->bpm.value - 92) < 4 * last);
    QVERIFY(last < 0.5);
  }

  void missedTapsAndPauses() {
    TapTempo taps;
    for (int i : {0, 1, 2, 4, 5}) taps.tap(Seconds(i * 0.5)); // one was missed
    QVERIFY(std::abs(taps.tempo()->bpm.value - 120) < 1e-6);
    taps.tap(Seconds(20)); // begins anew
    QVERIFY(!taps.tempo());
  }

  void cancelledListeningComesBack() {
    JobContext job;
    job.cancel();
    const auto heard = analyse(*drumLoop(100, 16), job);
    QVERIFY(heard.onsets.empty() && !heard.tempo && !heard.key); // it stopped at once
  }
};

QTEST_APPLESS_MAIN(TestListen)
#include "tst_listen.moc"
