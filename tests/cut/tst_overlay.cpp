// Where two sources lie well over each other, and what is heard then.
#include "cut/overlay.h"
#include "shape/lay_over.h"

#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// As it would have been heard: a chord a bar, one stroke a beat.
Source heardSource(double bpm, const std::vector<std::string>& chordOfBar, double strokeAt = 0,
                   int meter = 4) {
  Source source;
  source.name = "made";
  Analysis heard;
  const double beat = 60 / bpm;
  const int beats = int(chordOfBar.size()) * meter;
  heard.duration = Seconds(beats * beat);
  heard.tempo.emplace();
  heard.tempo->bpm = Bpm(bpm);
  heard.meter = meter;
  heard.content.onsets = 1 / beat;
  for (int i = 0; i < beats; ++i) {
    heard.beats.push_back(Seconds(i * beat));
    if (i % meter == 0) heard.downbeats.push_back(Seconds(i * beat));
    Onset onset;
    onset.at = onset.cut = Seconds((i + strokeAt) * beat);
    onset.hits = {HitClass::Other};
    onset.level = Decibels(-12);
    heard.onsets.push_back(onset);
  }
  for (std::size_t i = 0; i < chordOfBar.size(); ++i)
    if (!chordOfBar[i].empty())
      heard.chords.push_back({Seconds(double(i) * meter * beat),
                              Seconds(double(i + 1) * meter * beat), chordOfBar[i], ""});
  source.heard = heard;
  return source;
}

const std::vector<std::string> kTurn{"C", "Am", "F", "G"}, kTurnUpTwo{"D", "Bm", "G", "A"};

Overlay bestOf(const Source& under, const Source& over) {
  const auto question = OverlayQuestion::of(under, over);
  const auto ways = question ? question->best() : std::vector<Overlay>{};
  return ways.empty() ? Overlay{} : ways.front();
}

/// The power of one frequency in a sound (Goertzel's algorithm, 1958).
double powerAt(std::span<const float> samples, double hz, double rate) {
  const double k = 2 * std::cos(2 * M_PI * hz / rate);
  double a = 0, b = 0;
  for (float v : samples) {
    const double next = double(v) + k * a - b;
    b = a;
    a = next;
  }
  return (a * a + b * b - k * a * b) / double(samples.size()) / double(samples.size());
}

} // namespace

class TestOverlay : public QObject {
  Q_OBJECT
private slots:
  void theSameTurnInAnotherKeyIsMovedOntoIt() {
    const Overlay way = bestOf(heardSource(90, kTurn), heardSource(100, kTurnUpTwo));
    QCOMPARE(way.shift, -2);
    QCOMPARE(way.offset, 0);
    QCOMPARE(way.beats, 16);
    QVERIFY(way.tones > 0.95);
  }

  void aPhraseIsFoundInsideALongSource() {
    // Bars 3 to 6 of the upper one have the turn that lies under it.
    const Source over = heardSource(90, {"C#", "F#", "C", "Am", "F", "G", "B", "C#"});
    const auto question = OverlayQuestion::of(heardSource(90, kTurn), over);
    const Overlay way = question->best().front();
    QCOMPARE(question->overBar(way.over), 2);
    QCOMPARE(question->underBar(way.under), 0);
    QCOMPARE(way.shift, 0);
  }

  void chordsThatBiteComeLast() {
    const auto question =
        OverlayQuestion::of(heardSource(90, {"C", "C"}), heardSource(90, {"C#", "C#"}));
    for (const Overlay& way : question->best(50))
      if (way.shift == 0) QVERIFY(way.tones < 0.1);
    QCOMPARE(question->best().front().shift, -1);
  }

  void halfAndDoubleTempoAreFolded() {
    const Overlay fast = bestOf(heardSource(88, kTurn),
                                heardSource(172, {"C", "C", "Am", "Am", "F", "F", "G", "G"}));
    QCOMPARE(fast.shift, 0);
    QVERIFY(fast.tones > 0.95);
    const Overlay slow = bestOf(heardSource(172, {"C", "C", "Am", "Am", "F", "F", "G", "G"}),
                                heardSource(88, kTurn));
    QCOMPARE(slow.beats, 16);
    QVERIFY(slow.tones > 0.95);
  }

  void strokesInTheGapsTakeTurns() {
    const Overlay between = bestOf(heardSource(90, kTurn), heardSource(90, kTurn, 0.5));
    const Overlay together = bestOf(heardSource(90, kTurn), heardSource(90, kTurn));
    QVERIFY(between.turns > 0.999);
    QVERIFY(together.turns < 0.001);
    QVERIFY(between.score > together.score);
  }

  void lowsOnLowsLeaveLessRoom() {
    Source under = heardSource(90, kTurn), over = under;
    under.heard->content.lows = over.heard->content.lows = 0.4;
    QCOMPARE(bestOf(under, over).room, 0.5);
    over.heard->content.lows = 0;
    QCOMPARE(bestOf(under, over).room, 1.0);
  }

  void drumsAreNotMoved() {
    const Overlay way = bestOf(heardSource(90, kTurn), heardSource(90, {"", "", "", ""}));
    QCOMPARE(way.shift, 0);
    QCOMPARE(way.beats, 16);
  }

  void whatHasNoTempoOrNoBarHasNoWay() {
    Source none = heardSource(90, kTurn);
    none.heard->tempo.reset();
    QVERIFY(!OverlayQuestion::of(none, heardSource(90, kTurn)));
    QVERIFY(!OverlayQuestion::of(heardSource(90, kTurn), none));
    QVERIFY(!OverlayQuestion::of(heardSource(90, kTurn), heardSource(90, {"C"}, 0, 3)));
    QVERIFY(!OverlayQuestion::of(heardSource(90, kTurn), Source{}));
  }

  void waysDiffer() {
    std::vector<std::string> turns;
    for (int i = 0; i < 40; ++i) turns.push_back(kTurn[std::size_t(i % 4)]);
    const auto ways = OverlayQuestion::of(heardSource(90, turns), heardSource(95, turns))->best(6);
    QCOMPARE(ways.size(), std::size_t(6));
    for (std::size_t i = 0; i < ways.size(); ++i)
      for (std::size_t k = 0; k < i; ++k) {
        QVERIFY(!(ways[i] == ways[k]));
        QVERIFY(ways[i].score <= ways[k].score);
      }
  }

  /// A D that is moved by −2 onto a C leaves nothing of the D.
  void whatIsHeardIsMovedAndInTime() {
    Source under = heardSource(90, {"C", "C"}), over = heardSource(100, {"D", "D"});
    under.sound = makeSound(sine(261.63, under.heard->duration.value, 48000));
    over.sound = makeSound(sine(293.66, over.heard->duration.value, 48000, 0.1));
    const auto question = OverlayQuestion::of(under, over);
    const Overlay way = question->best().front();
    QCOMPARE(way.shift, -2);
    JobContext job;
    const BeatFrame beat{Bpm(90), 4, Hertz(48000)};
    const auto laid = layOver(under, over, *question, way, beat, job);
    QVERIFY2(laid.ok(), laid.ok() ? "" : laid.error().text().c_str());
    QCOMPARE(laid->beats, 8.0);
    QVERIFY(std::abs(laid->sound->duration().value - 8 * 60.0 / 90) < 1e-3);
    const auto samples = laid->sound->channel(0).subspan(4800, 96000);
    const double c = powerAt(samples, 261.63, 48000), d = powerAt(samples, 293.66, 48000);
    QVERIFY2(c > 1000 * d, qPrintable(QString("%1 %2").arg(c).arg(d)));
    // A silent one is no trouble; a cancelled job and a missing sound are.
    under.sound = makeSound(Samples(std::size_t(48000 * under.heard->duration.value), 0.0f));
    const auto silent = layOver(under, over, *question, way, beat, job);
    QVERIFY(silent.ok());
    job.cancel();
    QVERIFY(!layOver(under, over, *question, way, beat, job).ok());
    under.sound.reset();
    JobContext again;
    QVERIFY(!layOver(under, over, *question, way, beat, again).ok());
  }
};

QTEST_APPLESS_MAIN(TestOverlay)
#include "tst_overlay.moc"
