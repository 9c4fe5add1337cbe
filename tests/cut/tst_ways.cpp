// Ways to cut besides beats, hits and equal parts; taps; places that loop.
#include "cut/loop_finder.h"
#include "cut/slicing.h"
#include "listen/analyse.h"
#include "listen/chord_name.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestWays : public QObject {
  Q_OBJECT
  Source m_loop; ///< 16 beats at 120 BPM, struck on every beat (lows, mids) and half (highs)

  static double secondsOf(Frames at) { return double(at.value) / 44100; }
  static std::vector<double> startsOf(const std::vector<Cut>& cuts) {
    std::vector<double> out;
    for (const auto& cut : cuts) out.push_back(secondsOf(cut.start));
    return out;
  }
  std::vector<Cut> cutBy(CutMode way, const std::function<void(CutSettings&)>& more = {}) {
    CutSettings settings;
    settings.mode = way;
    if (more) more(settings);
    return cutSource(m_loop, settings);
  }

private slots:
  void init() {
    JobContext job;
    m_loop = sourceOf(drumLoop(120, 16));
    m_loop.heard = analyse(*m_loop.sound, job);
    m_loop.corrections.tempo = Bpm(120);
    m_loop.corrections.downbeat = Seconds(0);
  }

  void barsAndSeveralBars() {
    for (int each : {1, 2, 4}) {
      const auto cuts = cutBy(CutMode::Bars, [each](CutSettings& s) { s.barsEach = each; });
      QCOMPARE(int(cuts.size()), 4 / each);
      for (std::size_t i = 0; i < cuts.size(); ++i) {
        // Just before the attack on the bar line, never inside it.
        const double late = secondsOf(cuts[i].start) - double(i) * 2.0 * each;
        QVERIFY2(late < 0.0003 && late > -0.003, qPrintable(QString::number(late)));
      }
    }
  }

  void sectionsAndChordsAreTakenWhereTheyBegin() {
    m_loop.heard->sections.clear();
    m_loop.heard->chords.clear();
    QVERIFY(!canCut(m_loop, CutMode::Sections) && !canCut(m_loop, CutMode::Chords));
    m_loop.cuts = cutBy(CutMode::Beats);
    QCOMPARE(cutBy(CutMode::Sections), m_loop.cuts); // nothing to cut by: as they were
    m_loop.heard->sections = {{Seconds(0), Seconds(4), "A"}, {Seconds(4), Seconds(8), "B"}};
    m_loop.heard->chords = {{Seconds(0), Seconds(2.5), "Am", "A"},
                            {Seconds(2.5), Seconds(5), "F", "F"},
                            {Seconds(5), Seconds(8), "G7", "G"}};
    QVERIFY(canCut(m_loop, CutMode::Sections) && canCut(m_loop, CutMode::Chords));
    const auto sections = startsOf(cutBy(CutMode::Sections));
    QCOMPARE(sections.size(), std::size_t(2));
    QVERIFY(std::abs(sections[1] - 4) < 0.003);
    const auto chords = startsOf(cutBy(CutMode::Chords));
    QCOMPARE(chords.size(), std::size_t(3));
    QVERIFY(std::abs(chords[1] - 2.5) < 0.003 && std::abs(chords[2] - 5) < 0.003);
  }

  void onlyTheClassesThatAreWanted() {
    // Named by hand, so that only the filter is asked.
    for (auto& onset : m_loop.heard->onsets) {
      const int half = int(std::lround(onset.at.value / 0.25));
      onset.hits = {half % 2 ? HitClass::Hat : half % 4 ? HitClass::Snare : HitClass::Kick};
    }
    const auto all = cutBy(CutMode::Hits);
    const auto kicks = cutBy(CutMode::Hits, [](CutSettings& s) {
      s.classes = {true, false, false, false};
    });
    QCOMPARE(all.size(), m_loop.heard->onsets.size());
    QCOMPARE(int(kicks.size()), 8);
    for (const auto& cut : kicks)
      QVERIFY(std::abs(std::remainder(secondsOf(cut.start), 1.0)) < 0.003);
    const auto both = cutBy(CutMode::Hits, [](CutSettings& s) {
      s.classes = {true, true, false, false};
    });
    QCOMPARE(int(both.size()), 16);
    m_loop.heard->onsets[0].hits = {HitClass::Hat, HitClass::Kick}; // several at once count as each
    QCOMPARE(int(cutBy(CutMode::Hits,
                       [](CutSettings& s) {
                         s.classes = {true, false, false, false};
                       })
                     .size()),
             8);
  }

  void aSliceEndsWhereItsSoundHasDied() {
    // A burst of 100 ms, then silence to the next second.
    Samples out(4 * 44100, 0.0f);
    for (int hit = 0; hit < 4; ++hit)
      for (int i = 0; i < 4410; ++i)
        out[std::size_t(hit * 44100 + i)] = 0.5f * std::sin(float(i) * 0.07f);
    Source source = sourceOf(makeSound(out, 44100));
    CutSettings settings;
    settings.mode = CutMode::Equal;
    settings.parts = 4;
    settings.end = CutEnd::Decay;
    const auto cuts = cutSource(source, settings);
    QCOMPARE(int(cuts.size()), 4);
    for (const auto& cut : cuts) {
      const double length = secondsOf(cut.end - cut.start);
      QVERIFY2(length >= 0.1 && length <= 0.1051, qPrintable(QString::number(length)));
    }
    // A sound that rings on is not cut short.
    const Sound tone({sine(441, 1, 44100)}, Hertz(44100));
    QCOMPARE(decayedAt(tone, Frames(0), Frames(44100)), Frames(44100));
    QCOMPARE(decayedAt(Sound({Samples(1000, 0.0f)}, Hertz(44100)), Frames(0), Frames(900)),
             Frames(900));
  }

  void tapsAreMovedBackAndOntoTheOnset() {
    std::vector<Seconds> taps;
    Random random(5);
    for (double at : {0.5, 1.0, 1.75, 3.0, 4.5})
      taps.emplace_back(at + 0.11 + 0.02 * random.unit());
    const auto late = lateOf(m_loop, taps);
    QVERIFY(late && late->value > 100 && late->value < 140);
    QVERIFY(!lateOf(m_loop, std::span(taps).first(3))); // too few to say
    const auto cuts = withTapCuts(m_loop, taps, {*late, true});
    QCOMPARE(int(cuts.size()), 5);
    for (std::size_t i = 0; i < cuts.size(); ++i) {
      QVERIFY(cuts[i].byHand);
      const double off = std::remainder(secondsOf(cuts[i].start), 0.25);
      QVERIFY2(off < 0.0003 && off > -0.003, qPrintable(QString::number(off)));
    }
    const auto free = withTapCuts(m_loop, taps, {*late, false});
    QVERIFY(std::abs(secondsOf(free[0].start) - (taps[0].value - late->value / 1000)) < 0.0005);
    const std::vector<Seconds> outside{Seconds(-1), Seconds(0.05), Seconds(99)};
    QVERIFY(withTapCuts(m_loop, outside, {Milliseconds(90), true}).empty());
  }

  void oneCutOverAStretch() {
    m_loop.cuts = cutBy(CutMode::Equal, [](CutSettings& s) { s.parts = 8; }); // a second each
    const auto cuts = withCutOver(m_loop, Frames(66150), Frames(198450));     // 1.5 to 4.5 s
    QCOMPARE(int(cuts.size()), 7);
    QCOMPARE(cuts[1].end.value, 66150);
    QVERIFY(cuts[2].start.value == 66150 && cuts[2].end.value == 198450 && cuts[2].byHand);
    QCOMPARE(cuts[3].start.value, 198450);
    for (std::size_t i = 1; i < cuts.size(); ++i) QVERIFY(cuts[i - 1].end <= cuts[i].start);
    m_loop.cuts.clear();
    QCOMPARE(int(withCutOver(m_loop, Frames(0), Frames(100)).size()), 1);
  }

  // Eight bars: two alike chords, then others. Only where the end meets its own start does it loop.
  void theBestSeamIsFound() {
    const double beat = 0.5, bar = 2;
    Samples out(std::size_t(16 * 44100), 0.0f);
    const int roots[] = {45, 50, 52, 43, 45, 50, 52, 43};
    const char* names[] = {"Am", "Dm", "Em", "G", "Am", "Dm", "Em", "G"};
    Source source;
    for (int b = 0; b < 32; ++b) {
      const int root = roots[b / 4];
      for (int tone : {0, 12, b / 4 % 4 == 3 ? 16 : 15, 19})
        for (int i = 0; i < 22050; ++i)
          out[std::size_t(b * 22050 + i)] +=
              0.08f *
              float(std::sin(2 * M_PI * 440 * std::exp2((root + tone - 69) / 12.0) * i / 44100) *
                    std::exp(-i / 20000.0));
      addHit(out, b * beat, 44100, b % 2 ? 200 : 60, b % 2 ? 0.8 : 0.1, 0.4);
    }
    // The last bar of the first half is much louder: a loop of its end would jump.
    for (std::size_t i = 3 * 88200; i < 4 * 88200; ++i) out[i] *= 1.6f;
    JobContext job;
    source = sourceOf(makeSound(out, 44100));
    source.heard = analyse(*source.sound, job);
    source.corrections.tempo = Bpm(120);
    source.corrections.downbeat = Seconds(0);
    source.heard->chords.clear();
    for (int b = 0; b < 8; ++b)
      source.heard->chords.push_back({Seconds(b * bar), Seconds((b + 1) * bar), names[b], ""});
    const auto fours = findLoops(source, {4, {}, {}}, 10);
    QCOMPARE(int(fours.size()), 5);
    for (const auto& loop : fours) {
      QCOMPARE(loop.bars, 4);
      QCOMPARE((loop.end - loop.start).value, 4 * 88200);
      QCOMPARE(loop.harmony, 0.0); // four bars on, the same chord comes round
      const double off = secondsOf(loop.start) - loop.firstBar * bar;
      QVERIFY(off <= 0.0001 && off >= -0.0152);
    }
    for (std::size_t i = 1; i < fours.size(); ++i) QVERIFY(fours[i - 1].seam <= fours[i].seam);
    // Three bars never come round: another chord follows each time.
    const auto threes = findLoops(source, {3, {}, {}}, 10);
    QVERIFY(!threes.empty() && threes[0].harmony > 0.2 && threes[0].seam > fours[0].seam + 0.2);
    // Filters: one bar on a minor chord; on a G.
    for (const auto& loop : findLoops(source, {1, true, {}}, 10))
      QVERIFY(loop.chord.ends_with("m"));
    const auto onG = findLoops(source, {1, {}, 7}, 10);
    QCOMPARE(int(onG.size()), 2);
    QCOMPARE(onG[0].firstBar % 4, 3);
    QCOMPARE(int(findLoops(source, {1, false, {}}, 10).size()), 2);
    QCOMPARE(int(findLoops(source, {2, {}, {}}, 3).size()), 3);
    QVERIFY(findLoops(source, {16, {}, {}}).empty());
    QVERIFY(findLoops(Source{}, {}).empty());
  }

  void chordNames() {
    const auto chord = chordFromName("F#m7");
    QVERIFY(chord && chord->root == 6 && chord->minor() == true);
    QCOMPARE(chord->tones(), (std::vector<int>{6, 9, 1, 4}));
    QVERIFY(!chordFromName("Bsus4")->minor() && !chordFromName("Bdim")->minor());
    QVERIFY(chordFromName("Eb7")->minor() == false && chordFromName("Eb7")->root == 3);
    for (const char* no : {"", "none", "H", "Am10", "#", "Am/", "C/H", "C/Em"})
      QVERIFY(!chordFromName(no));
  }
};

QTEST_APPLESS_MAIN(TestWays)
#include "tst_ways.moc"
