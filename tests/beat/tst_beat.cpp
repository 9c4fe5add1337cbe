#include "beat/flip.h"
#include "beat/take.h"
#include "formats/project_json.h"
#include "formats/shipped.h"
#include "listen/analyse.h"
#include "play/print.h"
#include "song/timeline.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestBeat : public QObject {
  Q_OBJECT

private slots:
  void swingByArithmetic() {
    // s %: the second of a pair starts at s % of the pair. Eighths at 66⅔ are triplets.
    const auto beatsOf = [](double beats, double percent, Beats pair) {
      return swung(beats * double(kTicksPerBeat), percent, pair) / double(kTicksPerBeat);
    };
    const Beats eighths = wholeBeats(1), sixteenths(kTicksPerBeat / 2);
    QCOMPARE(beatsOf(0.5, 50, eighths), 0.5);
    QVERIFY(std::abs(beatsOf(0.5, 200.0 / 3, eighths) - 2.0 / 3) < 1e-9);
    QVERIFY(std::abs(beatsOf(0.25, 60, sixteenths) - 0.3) < 1e-9); // 60 % of half a beat
    QVERIFY(std::abs(beatsOf(3.75, 60, sixteenths) - 3.8) < 1e-9);
    QVERIFY(std::abs(beatsOf(-0.25, 60, sixteenths) + 0.2) < 1e-9);
    for (double onBeat : {0.0, 1.0, 7.0, -3.0}) QCOMPARE(beatsOf(onBeat, 75, sixteenths), onBeat);
  }

  /// What feels may be, over and over.
  static Feel anyFeel(Random& random) {
    Feel feel;
    feel.swing8 = 50 + 30 * random.unit();
    feel.swing16 = 50 + 30 * random.unit();
    feel.microTiming = Milliseconds(20 * random.bipolar());
    feel.lag = Beats(std::int64_t(1000 * random.bipolar()));
    feel.quantiseStrength = random.unit();
    return feel;
  }

  void heardPlacesAreExact() {
    Random random(11);
    for (int i = 0; i < 3000; ++i) {
      Project project;
      project.tempo = Bpm(20 + 380 * random.unit());
      Lane lane;
      lane.feel = anyFeel(random);
      Hit hit;
      hit.at = Beats(std::int64_t(random.next() % std::uint64_t(kTicksPerBeat * 256)));
      hit.microTiming = Milliseconds(30 * random.bipolar());
      const double beats =
          swungBeats(swungBeats(inBeats(hit.at), lane.feel.swing16, 0.5), lane.feel.swing8, 1) +
          inBeats(lane.feel.lag);
      const double ms =
          hit.microTiming.value * (1 - lane.feel.quantiseStrength) + lane.feel.microTiming.value;
      const double frames = beats * 60 / project.tempo.value * 48000 + ms * 48;
      const ResolvedTiming timed(project, Meter{}, lane);
      const Frames heard(
          std::llround(TempoMap(project.tempo).framesAt(timed.heardAt(hit), Hertz(48000))));
      QVERIFY2(std::abs(double(heard.value) - frames) <= 0.5 + 1e-4,
               qPrintable(QString::number(double(heard.value) - frames)));
    }
  }

  /// A project whose only lane has a feel.
  static Project felt(const Feel& feel, double bpm = 90) {
    Project project = withPart(bpm);
    Pattern pattern;
    laneOf(pattern, 1).feel = feel;
    return withPattern(project, pattern);
  }
  static Project withPart(double bpm) {
    Project project;
    project.tempo = Bpm(bpm);
    return project;
  }

  // Whatever the feel is, a hit laid on its nearest line with the micro-timing that belongs to it
  // is heard where it was.
  void writingIsTheInverseOfHearing() {
    Random random(12);
    for (int i = 0; i < 2000; ++i) {
      Project project = withPart(60 + 120 * random.unit());
      Groove groove;
      groove.length = wholeBeats(2);
      for (int k = 0; k < 8; ++k)
        groove.steps.push_back({at(k / 4.0), 900 * random.bipolar(), 0.5 + random.unit()});
      Lane lane;
      lane.feel = anyFeel(random);
      lane.feel.quantiseStrength = 0;
      lane.feel.humanise = Milliseconds(5 * random.unit());
      lane.feel.humaniseLevel = 0.2 * random.unit();
      lane.feel.accent = AccentShape::Backbeats;
      lane.feel.accentDepth = 0.4;
      project = withGroove(project, groove, &lane.feel.groove);
      const ResolvedTiming timed(project, Meter{}, lane);
      const double heard = double(kTicksPerBeat) * 16 * random.unit(),
                   hard = 0.05 + 0.3 * random.unit();
      Hit hit;
      hit.key = 3;
      hit.at = timed.nearestLine(heard, int(random.next() % 3) * 4);
      hit.microTiming = timed.microTimingOf(hit.key, hit.at, heard);
      hit.velocity = timed.velocityFor(hit.key, hit.at, hard);
      if (std::abs(hit.microTiming.value) < 199)
        QVERIFY(std::abs(timed.heardAt(hit) - heard) < 1e-3);
      if (hit.velocity < 1) QVERIFY(std::abs(timed.velocityOf(hit) - hard) < 1e-9);
    }
  }

  void accentsByPlace() {
    const Meter four{4, 4}, six{6, 8}, seven{7, 8};
    const auto on = [](double beats, Meter meter, AccentShape shape) {
      return accentAt(at(beats), meter, shape, 0.5);
    };
    using enum AccentShape;
    QCOMPARE(on(1, four, Backbeats), 1.0);
    QCOMPARE(on(3, four, Backbeats), 1.0);
    QCOMPARE(on(2, four, Backbeats), 0.5);
    QCOMPARE(on(0.5, four, OffBeats), 1.0);
    QCOMPARE(on(1, four, OffBeats), 0.5);
    QCOMPARE(on(4, four, Downbeat), 1.0);
    QCOMPARE(on(5, four, Downbeat), 0.75);
    QCOMPARE(on(2, four, Rising), 0.75);
    QCOMPARE(on(0, four, Falling), 1.0);
    QCOMPARE(on(1.5, six, Beats), 1.0); // 6/8 is felt in two
    QCOMPARE(on(1, six, Beats), 0.5);
    QCOMPARE(on(3, six, Downbeat), 1.0);
    QCOMPARE(on(3.5, seven, Downbeat), 1.0);
    QCOMPARE(accentAt(at(0.3), four, Flat, 0.9), 1.0);
  }

  void loosenedTheSameEveryTime() {
    Feel feel;
    feel.humanise = Milliseconds(8);
    feel.humaniseLevel = 0.2;
    const Project project = felt(feel, 120);
    const Lane& lane = project.patterns[0]->lanes[0];
    const ResolvedTiming timed(project, Meter{}, lane), again(project, Meter{}, lane);
    double sum = 0, square = 0;
    for (int i = 0; i < 4000; ++i) {
      Hit hit;
      hit.at = at(i / 4.0);
      hit.key = 7;
      const double ms = timed.msOf(timed.heardAt(hit) - double(hit.at.value)).value;
      QCOMPARE(again.heardAt(hit), timed.heardAt(hit));
      QCOMPARE(again.velocityOf(hit), timed.velocityOf(hit));
      QVERIFY(std::abs(ms) <= 24.001);
      sum += ms;
      square += ms * ms;
    }
    QVERIFY(std::abs(sum / 4000) < 0.5);
    QVERIFY(std::abs(std::sqrt(square / 4000) - 8) < 0.5);
    feel.seed = 2;
    Hit hit;
    hit.at = at(1);
    QVERIFY(ResolvedTiming(felt(feel, 120), Meter{}, felt(feel, 120).patterns[0]->lanes[0])
                .heardAt(hit) != timed.heardAt(hit));
  }

  static Hit pulled(Lane lane, int perBeat, double strength, double bpm = 90) {
    return quantised(withPart(bpm), Meter{}, std::move(lane), perBeat, strength).hits[0];
  }

  void quantiseWithStrength() {
    Lane lane;
    Hit hit;
    hit.at = at(1);
    hit.key = 1;
    hit.microTiming = Milliseconds(20);
    lane.hits = {hit};
    QCOMPARE(pulled(lane, 4, 1.0).microTiming.value, 0.0);
    QVERIFY(std::abs(pulled(lane, 4, 0.5).microTiming.value - 10) < 0.01);
    QVERIFY(std::abs(pulled(lane, 4, 0.0).microTiming.value - 20) < 0.01);
    // Far enough off, the next line is the nearer one; what is heard stays.
    lane.hits[0].microTiming = Milliseconds(150);
    const Hit moved = pulled(lane, 4, 0.0);
    QCOMPARE(moved.at, at(1.25));
    const ResolvedTiming timed(withPart(90), Meter{}, lane);
    QVERIFY(std::abs(timed.heardAt(moved) - timed.heardAt(lane.hits[0])) < 1e-6);
  }

  void quantiseKnowsSwing() {
    Lane lane;
    lane.feel.swing16 = 62;
    Hit hit;
    hit.at = at(0.25);
    lane.hits = {hit}; // sounds where swing puts it, so pulling moves nothing
    QCOMPARE(pulled(lane, 4, 1.0, 85).at, at(0.25));
    QVERIFY(std::abs(pulled(lane, 4, 0.0, 85).microTiming.value) < 0.01);
  }

  void takesAreLaidWhereTheyWereHeard() {
    auto made = clickProject({}, 100, 2);
    const TempoMap map(Bpm(100));
    Random hand(6);
    std::vector<RecordedHit> hits;
    for (int i = 0; i < 12; ++i) {
      RecordedHit hit;
      hit.key = made.key;
      hit.at = map.beatsAt(Seconds(i * 0.31 + 0.012 * hand.bell()));
      hits.push_back(hit);
    }
    const Pattern laid = withTake(*made.project.patterns[0], made.project, hits, {});
    const Lane& lane = *findLane(laid, findKey(made.project, made.key)->part);
    QCOMPARE(lane.hits.size(), hits.size());
    for (const auto& struck : hits) {
      const Frames truth = map.frameAt(
          Beats((struck.at.value % (8 * kTicksPerBeat) + 8 * kTicksPerBeat) % (8 * kTicksPerBeat)),
          Hertz(48000));
      bool found = false;
      const ResolvedTiming timed(made.project, laid.meter, lane);
      for (const auto& hit : lane.hits) {
        const Frames heard(std::llround(map.framesAt(timed.heardAt(hit), Hertz(48000))));
        const auto d = std::abs((heard - truth).value);
        found =
            found || d <= 3 || std::abs(d - map.frameAt(wholeBeats(8), Hertz(48000)).value) <= 3;
      }
      QVERIFY(found);
    }
  }

  void aHitJustBeforeTheEndIsEarlyOnTheOne() {
    auto made = clickProject({}, 120, 1);
    RecordedHit struck;
    struck.key = made.key;
    struck.at = at(3.98);
    const Pattern laid = withTake(*made.project.patterns[0], made.project, {struck}, {});
    const Hit& hit = laid.lanes[0].hits.at(0);
    QCOMPARE(hit.at.value, 0);
    QVERIFY(std::abs(hit.microTiming.value + 10) < 0.1); // .02 beats at 120 BPM
  }

  void barsDoubleAndShrink() {
    auto made = clickProject({0, 2.5, 7}, 120, 2);
    const Pattern twice = withBars(*made.project.patterns[0], 4);
    QCOMPARE(int(twice.lanes[0].hits.size()), 6);
    QCOMPARE(twice.lanes[0].hits[3].at, at(8));
    const Pattern once = withBars(twice, 1);
    QCOMPARE(int(once.lanes[0].hits.size()), 2);
    QCOMPARE(withBars(once, 99).bars, kMostBars);
  }

  void hitsOutsideStayOut() {
    auto made = clickProject({0}, 120, 1);
    Hit hit;
    hit.key = made.key;
    hit.at = at(4);
    QCOMPARE(withHit(*made.project.patterns[0], 1, hit).lanes.size(),
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
    source.heard = analyse(*source.sound, job);
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
      const double sixteenths = double(event.frame.value) / (60.0 / 93 * 48000 / 4);
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
    source.heard = analyse(*source.sound, job);
    const auto made = flip(fresh.project, source, {});
    QVERIFY(!made.ok());
    QVERIFY(!made.error().remedy.empty());
  }
};

QTEST_APPLESS_MAIN(TestBeat)
#include "tst_beat.moc"
