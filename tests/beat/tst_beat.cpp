#include "beat/feel.h"
#include "beat/flip.h"
#include "beat/take.h"
#include "formats/project_json.h"
#include "formats/shipped.h"
#include "listen/listen.h"
#include "play/print.h"
#include "song/timeline.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestBeat : public QObject {
  Q_OBJECT
  static Beats at(double beats) { return Beats(std::llround(beats * double(kTicksPerBeat))); }

private slots:
  void swingByArithmetic() {
    // s %: the second of a pair starts at s % of the pair. Eighths at 66⅔ are triplets.
    QCOMPARE(swung(at(0.5), 50, 1), at(0.5));
    QVERIFY(std::abs(inBeats(swung(at(0.5), 200.0 / 3, 1)) - 2.0 / 3) < 1e-4);
    QVERIFY(std::abs(inBeats(swung(at(0.25), 60, 2)) - 0.3) <
            1e-4); // sixteenths: 60 % of half a beat
    QVERIFY(std::abs(inBeats(swung(at(3.75), 60, 2)) - 3.8) < 1e-4);
    for (double onBeat : {0.0, 1.0, 7.0}) QCOMPARE(swung(at(onBeat), 75, 2), at(onBeat));
  }

  void heardPlacesAreExact() {
    Random random(11);
    for (int i = 0; i < 3000; ++i) {
      Lane lane;
      lane.swing = 50 + 25 * random.unit();
      lane.swingPairs = random.unit() < 0.5 ? 1 : 2;
      lane.lean = Milliseconds(20 * random.bipolar());
      Pin pin;
      pin.at = Beats(std::int64_t(random.next() % std::uint64_t(kTicksPerBeat * 8)));
      pin.lean = Milliseconds(30 * random.bipolar());
      const double bpm = 60 + 100 * random.unit();
      // The same by plain arithmetic in beats.
      const double pair = 1.0 / lane.swingPairs, beats = inBeats(pin.at),
                   inside = std::fmod(beats, pair);
      const double share = lane.swing / 100;
      const double moved =
          beats - inside +
          (inside < pair / 2 ? inside * 2 * share
                             : pair * share + (inside - pair / 2) * 2 * (1 - share));
      const double frames = moved * 60 / bpm * 48000 + (pin.lean + lane.lean).value * 48;
      QVERIFY(std::abs(double(heardAt(pin, lane, TempoMap(Bpm(bpm)), Hertz(48000)).value) -
                       frames) <= 2.0);
    }
  }

  void quantiseWithStrength() {
    Lane lane;
    Pin pin;
    pin.at = at(1);
    pin.key = 1;
    pin.lean = Milliseconds(20);
    lane.pins = {pin};
    QCOMPARE(quantised(lane, 4, 1.0, Bpm(90)).pins[0].lean.value, 0.0);
    QVERIFY(std::abs(quantised(lane, 4, 0.5, Bpm(90)).pins[0].lean.value - 10) < 0.01);
    QVERIFY(std::abs(quantised(lane, 4, 0.0, Bpm(90)).pins[0].lean.value - 20) < 0.01);
    // Far enough off, the next line is the nearer one; what is heard stays.
    lane.pins[0].lean = Milliseconds(150);
    const Lane moved = quantised(lane, 4, 0.0, Bpm(90));
    QCOMPARE(moved.pins[0].at, at(1.25));
    QVERIFY(std::abs(double((heardAt(moved.pins[0], moved, TempoMap(Bpm(90)), Hertz(48000)) -
                             heardAt(lane.pins[0], lane, TempoMap(Bpm(90)), Hertz(48000)))
                                .value)) <= 3);
  }

  void quantiseKnowsSwing() {
    Lane lane;
    lane.swing = 62;
    Pin pin;
    pin.at = at(0.25);
    lane.pins = {pin}; // sounds where swing puts it, so pulling moves nothing
    QCOMPARE(quantised(lane, 4, 1.0, Bpm(85)).pins[0].at, at(0.25));
    QVERIFY(std::abs(quantised(lane, 4, 0.0, Bpm(85)).pins[0].lean.value) < 0.01);
  }

  void takesAreLaidWhereTheyWereHeard() {
    auto made = clickProject({}, 100, 2);
    const TempoMap map(Bpm(100));
    Random hand(6);
    std::vector<StruckHit> hits;
    for (int i = 0; i < 12; ++i) {
      StruckHit hit;
      hit.key = made.key;
      hit.at = map.beatsAt(Seconds(i * 0.31 + 0.012 * hand.bell()));
      hits.push_back(hit);
    }
    const Pattern laid = withTake(*made.project.patterns[0], made.project, hits, {});
    const Lane& lane = *findLane(laid, findKey(made.project, made.key)->part);
    QCOMPARE(lane.pins.size(), hits.size());
    for (const auto& hit : hits) {
      const Frames truth = map.frameAt(
          Beats((hit.at.value % (8 * kTicksPerBeat) + 8 * kTicksPerBeat) % (8 * kTicksPerBeat)),
          Hertz(48000));
      bool found = false;
      for (const auto& pin : lane.pins) {
        const auto d = std::abs((heardAt(pin, lane, map, Hertz(48000)) - truth).value);
        found =
            found || d <= 3 || std::abs(d - map.frameAt(wholeBeats(8), Hertz(48000)).value) <= 3;
      }
      QVERIFY(found);
    }
  }

  void aHitJustBeforeTheEndIsEarlyOnTheOne() {
    auto made = clickProject({}, 120, 1);
    StruckHit hit;
    hit.key = made.key;
    hit.at = at(3.98);
    const Pattern laid = withTake(*made.project.patterns[0], made.project, {hit}, {});
    const Pin& pin = laid.lanes[0].pins.at(0);
    QCOMPARE(pin.at.value, 0);
    QVERIFY(std::abs(pin.lean.value + 10) < 0.1); // .02 beats at 120 BPM
  }

  void barsDoubleAndShrink() {
    auto made = clickProject({0, 2.5, 7}, 120, 2);
    const Pattern twice = withBars(*made.project.patterns[0], 4, 4);
    QCOMPARE(int(twice.lanes[0].pins.size()), 6);
    QCOMPARE(twice.lanes[0].pins[3].at, at(8));
    const Pattern once = withBars(twice, 1, 4);
    QCOMPARE(int(once.lanes[0].pins.size()), 2);
    QCOMPARE(withBars(once, 99, 4).bars, kMostBars);
  }

  void pinsOutsideStayOut() {
    auto made = clickProject({0}, 120, 1);
    Pin pin;
    pin.key = made.key;
    pin.at = at(4);
    QCOMPARE(withPin(*made.project.patterns[0], 1, pin, 4).lanes.size(),
             made.project.patterns[0]->lanes.size());
  }

  void timelineAddsUp() {
    auto made = clickProject({0});
    Section s;
    s.pattern = made.pattern;
    s.bars = 12; // odd lengths are welcome
    const Project p = withSection(made.project, s, 1);
    const Timeline t = timelineOf(p);
    QCOMPARE(t.bars, 14);
    QCOMPARE(t.length, wholeBeats(56));
    QCOMPARE(sectionAt(t, wholeBeats(8))->section, p.sections[1].id);
    QVERIFY(!sectionAt(t, wholeBeats(56)));
  }

  void flipMakesABeatOnTheGrid() {
    JobContext job;
    NewProject fresh = newProject(TUVVO_DATA_DIR, job);
    QVERIFY(fresh.warnings.empty());
    Source source = sourceOf(drumLoop(112, 16), "loop");
    source.heard = listen(*source.sound, job);
    FlipOptions options;
    options.tempo = Bpm(93);
    const auto made = flip(fresh.project, source, options);
    QVERIFY(made.ok());
    QCOMPARE(made->tempo.value, 93.0);
    const Timeline t = timelineOf(*made);
    QVERIFY(t.bars >= 8);
    const Score score = compileSong(*made);
    QVERIFY(score.events.size() > 40);
    bool slices = false;
    for (const auto& event : score.events) {
      const Key* key = findKey(*made, score.patches[std::size_t(event.patch)].key);
      slices = slices || key->row == Row::Cuts;
      const double sixteenths = double(event.frame) / (60.0 / 93 * 48000 / 4);
      QVERIFY(std::abs(sixteenths - std::round(sixteenths)) * 60 / 93 / 4 <
              0.0001); // a tenth of a millisecond
    }
    QVERIFY(slices);
    const auto printed = print(score, {}, job);
    QCOMPARE((*printed)->frames().value, std::llround(t.bars * 4 * 60.0 / 93 * 48000));
    QVERIFY(peakOf(**printed, Frames(0), (*printed)->frames()) < 1.0f);
    QCOMPARE(projectToText(*flip(fresh.project, source, options), 1),
             projectToText(*made, 1)); // the same seed, the same beat
    options.seed = 2;
    QVERIFY(projectToText(*flip(fresh.project, source, options), 1) != projectToText(*made, 1));
  }

  void flipRefusesWhatCannotBeCut() {
    JobContext job;
    NewProject fresh = newProject(TUVVO_DATA_DIR, job);
    Source source = sourceOf(makeSound(Samples(100, 0.0f)), "tiny");
    source.heard = listen(*source.sound, job);
    const auto made = flip(fresh.project, source, {});
    QVERIFY(!made.ok());
    QVERIFY(!made.error().remedy.empty());
  }
};

QTEST_APPLESS_MAIN(TestBeat)
#include "tst_beat.moc"
