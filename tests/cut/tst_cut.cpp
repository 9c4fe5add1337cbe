#include "cut/fit.h"
#include "cut/slicing.h"
#include "listen/analyse.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestCut : public QObject {
  Q_OBJECT
  Source m_loop;

private slots:
  void initTestCase() {
    JobContext job;
    m_loop = sourceOf(drumLoop(120, 16));
    m_loop.heard = analyse(*m_loop.sound, job);
    QVERIFY(m_loop.heard->tempo);
  }

  void byBeatsIsOneSliceABeat() {
    Source source = m_loop;
    source.corrections.tempo = Bpm(120);
    source.corrections.downbeat = Seconds(0);
    CutSettings settings;
    settings.mode = CutMode::Beats;
    for (int perBeat : {1, 2, 3, 4}) {
      settings.perBeat = perBeat;
      const auto cuts = cutSource(source, settings);
      QCOMPARE(int(cuts.size()), 16 * perBeat);
      for (std::size_t i = 0; i < cuts.size(); ++i) {
        // On the grid, or just before the attack of the hit that is struck there.
        const double late = double(cuts[i].start.value) - double(i) * 22050.0 / perBeat;
        const bool struck = i * 2 % std::size_t(perBeat) == 0;
        QVERIFY2(late <= 14 && late >= (struck ? -132 : -14), qPrintable(QString::number(late)));
        if (i) QCOMPARE(cuts[i].start, cuts[i - 1].end);
      }
      QCOMPARE(cuts.back().end, source.sound->frames());
    }
  }

  void equalPartsCoverEverything() {
    CutSettings settings;
    settings.mode = CutMode::Equal;
    for (int parts : {1, 7, 16, 128}) {
      settings.parts = parts;
      const auto cuts = cutSource(m_loop, settings);
      QCOMPARE(int(cuts.size()), parts);
      QCOMPARE(cuts.front().start.value, 0);
      QCOMPARE(cuts.back().end, m_loop.sound->frames());
    }
  }

  void byHitsStartsJustBeforeEachHit() {
    const auto cuts = cutSource(m_loop, {});
    QVERIFY(cuts.size() >= 30); // 32 hits were struck
    int near = 0;
    for (const auto& cut : cuts) {
      const double at = toSeconds(cut.start, Hertz(44100)).value,
                   hit = std::round(at / 0.25) * 0.25;
      near += at <= hit + 0.001 && at > hit - 0.006 ? 1 : 0;
    }
    QVERIFY(near >= int(cuts.size()) - 1);
  }

  void handCutsSurviveAnotherWay() {
    Source source = m_loop;
    source.cuts = withCutAdded(source, Frames(50000));
    QCOMPARE(int(source.cuts.size()), 1);
    CutSettings equal;
    equal.mode = CutMode::Equal;
    equal.parts = 4;
    const auto cuts = cutSource(source, equal);
    int hands = 0;
    for (std::size_t i = 0; i < cuts.size(); ++i) {
      hands += cuts[i].byHand ? 1 : 0;
      if (i) QVERIFY(cuts[i - 1].end <= cuts[i].start);
    }
    QCOMPARE(hands, 1);
  }

  void addMoveRemove() {
    Source source = m_loop;
    source.cuts = withCutAdded(source, Frames(10000));
    source.cuts[0].id = 1;
    source.cuts = withCutAdded(source, Frames(30000));
    source.cuts[1].id = 2;
    QCOMPARE(source.cuts[0].end.value, 30000);
    source.cuts = withCutStartMoved(source, 2, Frames(20000));
    QCOMPARE(source.cuts[0].end.value, 20000);             // what touched still touches
    source.cuts = withCutStartMoved(source, 2, Frames(1)); // never past its neighbour
    QVERIFY(source.cuts[1].start > source.cuts[0].start);
    source.cuts = withCutEndMoved(source, 2, Frames(1 << 30));
    QCOMPARE(source.cuts[1].end, source.sound->frames());
    source.cuts = withCutRemoved(source, 2);
    QCOMPARE(int(source.cuts.size()), 1);
    QCOMPARE(source.cuts[0].end, source.sound->frames());
    QCOMPARE(withCutRemoved(source, 99), source.cuts);
    QCOMPARE(withCutAdded(source, Frames(-5)), source.cuts);
  }

  void snapGoesToTheOnsetThenToACrossing() {
    const Frames hit = toFrames(m_loop.heard->onsets[5].cut, Hertz(44100));
    const Frames at = snapped(m_loop, hit + Frames(600));
    QVERIFY(std::abs(at.value - hit.value) <= toFrames(Milliseconds(3), Hertz(44100)).value);
    const auto tone = makeSound(sine(441, 1, 44100), 44100); // crosses zero every 50 frames
    QVERIFY(nearestCrossing(*tone, Frames(1012), Milliseconds(3)).value % 50 <=
            1); // rounding may put the change one frame on
    QVERIFY(std::abs(nearestCrossing(*tone, Frames(1012), Milliseconds(3)).value - 1000) <= 1);
    QVERIFY(std::abs(nearestCrossing(*tone, Frames(1038), Milliseconds(3)).value - 1050) <= 1);
    // No farther than it may reach, to the frame: 3 ms are 132 frames.
    Samples steps(2000, 0.5f);
    for (std::size_t i = 1000; i < steps.size(); ++i) steps[i] = -0.5f;
    const auto step = makeSound(steps, 44100);
    QVERIFY(std::abs(nearestCrossing(*step, Frames(1000 - 132), Milliseconds(3)).value - 1000) <=
            1);
    QCOMPARE(nearestCrossing(*step, Frames(1000 - 134), Milliseconds(3)).value, 1000 - 134);
    QCOMPARE(nearestCrossing(*step, Frames(1000 + 134), Milliseconds(3)).value, 1000 + 134);
    // An onset draws from 25 ms, 1102 frames, and no farther.
    Source flat = sourceOf(makeSound(Samples(20'000, 0.5f), 44100), "flat"); // it has no crossing
    flat.heard = Analysis{};
    flat.heard->onsets.resize(1);
    flat.heard->onsets[0].cut = toSeconds(Frames(10'000), Hertz(44100));
    QCOMPARE(snapped(flat, Frames(10'000 - 1102)).value, 10'000);
    QCOMPARE(snapped(flat, Frames(10'000 + 1102)).value, 10'000);
    QCOMPARE(snapped(flat, Frames(10'000 - 1104)).value, 10'000 - 1104);
    QCOMPARE(snapped(flat, Frames(10'000 + 1104)).value, 10'000 + 1104);
    const auto up = makeSound(Samples(1000, 0.5f), 44100);
    QCOMPARE(nearestCrossing(*up, Frames(500), Milliseconds(3)).value, 500); // none within reach
  }

  void crossingsAreCommonToBothChannels() {
    auto left = sine(441, 0.1, 44100), right = sine(441, 0.1, 44100);
    for (std::size_t i = 0; i < right.size(); ++i)
      right[i] = float(0.5 * std::cos(2 * M_PI * 441 * double(i) / 44100));
    const Sound apart({left, right}, Hertz(44100)); // a quarter turn apart: never together
    QCOMPARE(nearestCrossing(apart, Frames(1010), Milliseconds(1)).value, 1010);
  }

  void repitchByHandArithmetic() {
    // 92.1 to 88 BPM: 12 · log2(88 / 92.1) = −0.7884 st.
    QVERIFY(std::abs(repitchToTempo(Bpm(92.1), Bpm(88)).value + 0.78837) < 1e-4);
    // 170 against 86: half is nearer: 12 · log2(86 / 85) = 0.2025 st.
    QVERIFY(std::abs(repitchToTempo(Bpm(170), Bpm(86)).value - 0.20249) < 1e-4);
    QVERIFY(std::abs(repitchToTempo(Bpm(120), Bpm(120)).value) < 1e-12);
  }

  /// A source and a beat such as there are.
  static FitQuestion anyQuestion(Random& random) {
    FitQuestion q;
    q.bpm = Bpm(60 + 120 * random.unit());
    q.toBpm = Bpm(65 + 85 * random.unit());
    q.key = KeyName{int(12 * random.unit()), random.unit() < 0.5};
    if (random.unit() < 0.8) q.toKey = KeyName{int(12 * random.unit()), random.unit() < 0.5};
    q.tuning = Cents(random.unit() < 0.3 ? 0 : 100 * random.unit() - 50);
    q.hitsASecond = random.unit() < 0.2 ? 0 : 0.5 + 8 * random.unit();
    q.rings = random.unit() < 0.6;
    return q;
  }

  // Every change of pitch by single cents, every method: nothing is cheaper than the first answer.
  void bruteForceFindsNothingBetter() {
    Random random(11);
    for (int n = 0; n < 60; ++n) {
      const FitQuestion q = anyQuestion(random);
      const auto plan = planFit(q);
      QVERIFY(!plan.empty() && plan.size() <= 12);
      for (std::size_t i = 1; i < plan.size(); ++i) QVERIFY(plan[i - 1].cost <= plan[i].cost);
      for (FitMethod method : {FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace}) {
        if (method == FitMethod::Respace && q.hitsASecond == 0) continue; // nothing to re-space
        for (int cents = -600; cents <= 600; ++cents) {
          const FitRow row = fitRow(q, method, Semitones(cents / 100.0));
          QVERIFY2(
              row.cost > plan[0].cost - 0.005,
              qPrintable(
                  QString("%1 ct: %2, planned %3").arg(cents).arg(row.cost).arg(plan[0].cost)));
        }
      }
      QVERIFY(cheapestFit(q) >= plan[0].cost - 1e-9);
    }
  }

  void theBeatMovesALittleToMeetTheSource() {
    FitQuestion q;
    q.bpm = Bpm(92.1);
    q.toBpm = Bpm(85);
    // A semitone down is 92.1 · 2^(−1/12) = 86.931 BPM: the beat 2.27 % up, by hand arithmetic.
    const auto moves = planBeat(q);
    QVERIFY(!moves.empty());
    bool found = false;
    for (const auto& move : moves) {
      QVERIFY(std::abs(move.percent) <= 4);
      QVERIFY(std::abs(move.row.bpmErrorPercent) < 1e-9);
      QCOMPARE(move.row.method, FitMethod::Repitch);
      if (move.row.semitones.value == -1) {
        found = true;
        QVERIFY(std::abs(move.tempo.value - 86.9309) < 1e-3);
        QVERIFY(std::abs(move.percent - 2.2716) < 1e-3);
      }
    }
    QVERIFY(found);
    q.toBpm = Bpm(184.2); // twice the source's: untouched, the beat where it is
    QVERIFY(planBeat(q)[0].row.semitones.value == 0 && std::abs(planBeat(q)[0].percent) < 1e-9);
    q.bpm.reset();
    QVERIFY(planBeat(q).empty());
  }

  void keyDistanceRoundTheFifths() {
    const auto d = [](const char* a, const char* b) {
      return keyDistance(*keyFromName(a), *keyFromName(b));
    };
    QCOMPARE(d("C", "C"), 0);
    QCOMPARE(d("C", "Am"), 0); // relatives share all notes
    QCOMPARE(d("C", "G"), 1);
    QCOMPARE(d("C", "F"), 1);
    QCOMPARE(d("C", "D"), 2);
    QCOMPARE(d("C", "F#"), 6);
    QCOMPARE(d("Em", "Dm"), 2);
    for (int a = 0; a < 12; ++a)
      for (int b = 0; b < 12; ++b)
        QCOMPARE(keyDistance({a, false}, {b, true}), keyDistance({b, true}, {a, false}));
  }

  void theBestFitMeetsTempoAndKeyTogether() {
    FitQuestion q;
    q.bpm = Bpm(90 * std::exp2(34 / 1200.0));
    q.key = keyFromName("Cm");
    q.tuning = Cents(34);
    q.toBpm = Bpm(85);
    q.toKey = keyFromName("Bm");
    const auto rows = planFit(q);
    QVERIFY(!rows.empty() && rows.size() <= 12);
    QVERIFY(rows[0].method == FitMethod::Repitch);
    QVERIFY(std::abs(rows[0].resultBpm.value - 85) < 1e-6);
    QCOMPARE(QString::fromStdString(nameOf(*rows[0].resultKey)), QString("Bm"));
    QVERIFY(std::abs(rows[0].semitones.value + rows[0].cents.value / 100 + 1.3293) < 1e-3);
    for (std::size_t i = 1; i < rows.size(); ++i) QVERIFY(rows[i - 1].cost <= rows[i].cost);
    bool stretch = false;
    for (const auto& row : rows) stretch = stretch || row.method == FitMethod::Stretch;
    QVERIFY(stretch);
  }

  void threeMethodsEachAtItsPrice() {
    FitQuestion q;
    q.bpm = Bpm(100);
    q.key = keyFromName("Am");
    q.hitsASecond = 5;
    q.toBpm = Bpm(92);
    q.toKey = keyFromName("Am");
    const auto best = [&](FitMethod method) {
      for (const auto& row : planFit(q))
        if (row.method == method) return row;
      return FitRow{};
    };
    // Repitched to the tempo it is 1.44 semitones down: no key agrees with that to the cent.
    q.rings = true;
    const auto stretch = best(FitMethod::Stretch);
    QVERIFY(std::abs(stretch.stretchPercent - (100 / 92.0 - 1) * 100) < 1e-9);
    QVERIFY(stretch.semitones.value == 0 && stretch.keyDistance == 0);
    QVERIFY(planFit(q)[0].method == FitMethod::Stretch);
    // The same as drums: moved apart untouched, a fifth of a second becomes 217 ms.
    q.rings = false;
    const auto spaced = planFit(q)[0];
    QVERIFY(spaced.method == FitMethod::Respace);
    QVERIFY(std::abs(spaced.gap.value - (200 * 100 / 92.0 - 200)) < 1e-9);
    QCOMPARE(spaced.resultBpm.value, 92.0);
    q.hitsASecond = 0; // nothing to re-space
    for (const auto& row : planFit(q)) QVERIFY(row.method != FitMethod::Respace);
  }

  void centsAreTakenOffAndCharged() {
    FitQuestion q;
    q.bpm = Bpm(92);
    q.key = keyFromName("Am");
    q.tuning = Cents(40);
    q.toBpm = Bpm(92);
    q.toKey = keyFromName("Am");
    const auto rows = planFit(q);
    double asItIs = -1, inTune = -1;
    for (const auto& row : rows) {
      if (row.method != FitMethod::Stretch || row.semitones.value != 0) continue;
      if (std::abs(row.cents.value) < 1) asItIs = row.cost;
      if (std::abs(row.cents.value + 40) < 1) {
        inTune = row.cost;
        QVERIFY(std::abs(row.centsOff) < 1e-9);
      }
    }
    QVERIFY(asItIs > 0 && inTune > 0 && inTune < asItIs);
  }

  void theCheapestIsTheFirstOfAll() {
    Random random(5);
    for (int i = 0; i < 300; ++i) {
      FitQuestion q;
      if (random.unit() < 0.8) q.bpm = Bpm(50 + 150 * random.unit());
      if (random.unit() < 0.8) q.key = KeyName{int(12 * random.unit()), random.unit() < 0.5};
      q.tuning = Cents(100 * random.unit() - 50);
      q.hitsASecond = 8 * random.unit();
      q.rings = random.unit() < 0.5;
      q.toBpm = Bpm(60 + 100 * random.unit());
      q.toKey = KeyName{int(12 * random.unit()), random.unit() < 0.5};
      const auto rows = planFit(q);
      QVERIFY(!rows.empty());
      // The quick answer asks fewer places: never less, and no dearer by more than a fifth counts.
      QVERIFY(cheapestFit(q) >= rows[0].cost - 1e-9);
      QVERIFY2(cheapestFit(q) <= rows[0].cost + 3,
               qPrintable(QString("%1 %2").arg(cheapestFit(q)).arg(rows[0].cost)));
      for (const auto& row : rows) {
        QVERIFY(row.cost >= 0);
        QVERIFY(std::abs(row.cents.value) <= 50.001);
      }
      // Transposing source and beat together changes nothing.
      if (!q.key) continue;
      FitQuestion moved = q;
      moved.key = transposed(*q.key, 5);
      moved.toKey = transposed(*q.toKey, 5);
      QVERIFY(std::abs(cheapestFit(moved) - cheapestFit(q)) < 1e-9);
    }
  }

  void fitsWithoutTempoOrKey() {
    FitQuestion onlyKey;
    onlyKey.key = keyFromName("A");
    onlyKey.toKey = keyFromName("C");
    for (const auto& row : planFit(onlyKey)) QCOMPARE(row.resultBpm.value, 0.0);
    FitQuestion onlyTempo;
    onlyTempo.bpm = Bpm(100);
    for (const auto& row : planFit(onlyTempo)) QCOMPARE(row.keyDistance, -1);
  }
};

QTEST_APPLESS_MAIN(TestCut)
#include "tst_cut.moc"
