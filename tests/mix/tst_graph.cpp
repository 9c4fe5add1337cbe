// Buses, chains and what they do to what sounds already.
#include "formats/project_json.h"
#include "mix/graph.h"
#include "play/engine.h"
#include "play/print.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;
using Kind = Engine::Command::Kind;

namespace {

/// Two parts: one plays a long tone once a bar, the other a click on every beat.
struct Two {
  Project project;
  Id tone = 0, click = 0, pattern = 0; ///< keys
  [[nodiscard]] Id part(Id key) const { return findKey(project, key)->part; }
};

Two twoParts(double hz = 220) {
  Two out;
  Project& p = out.project;
  p.tempo = Bpm(120);
  Id tone = 0, click = 0;
  p = withSource(std::move(p), sourceOf(makeSound(sine(hz, 4, 48000))), &tone);
  Samples one(200, 0.0f);
  one[0] = 0.5f;
  p = withSource(std::move(p), sourceOf(makeSound(one)), &click);
  p = withKeySound(std::move(p), Row::Body, 0, 0, {tone, 0}, "tone", &out.tone);
  p = withKeySound(std::move(p), Row::Floor, 0, 0, {click, 0}, "click", &out.click);
  Pattern pattern;
  pattern.bars = 2;
  Hit hit;
  hit.velocity = 1;
  hit.key = out.tone;
  laneOf(pattern, out.part(out.tone)).hits = {hit};
  hit.key = out.click;
  for (int beat = 0; beat < 8; ++beat) {
    hit.at = wholeBeats(beat);
    laneOf(pattern, out.part(out.click)).hits.push_back(hit);
  }
  p = withPattern(std::move(p), pattern, &out.pattern);
  Section section;
  section.pattern = out.pattern;
  section.bars = 2;
  p = withSection(std::move(p), section, 0);
  return out;
}

Project without(Project p, Id pattern, Id part) {
  return withPatternChanged(std::move(p), pattern,
                            [&](Pattern& x) { laneOf(x, part).hits.clear(); });
}

/// One part, whose sound is 0.25 on the left and 0.1 on the right all through.
Two standingStill() {
  Two two = twoParts();
  two.project = without(two.project, two.pattern, two.part(two.click));
  Source still = *two.project.sources[0];
  still.sound = std::make_shared<Sound>(
      Channels{Samples(4 * 48000, 0.25f), Samples(4 * 48000, 0.1f)}, Hertz(48000));
  two.project.sources[0] = std::make_shared<Source>(still);
  return two;
}

Project withBus(const Two& two, Id key, const std::function<void(BusSettings&)>& change) {
  return withPartChanged(two.project, two.part(key), [&](Part& part) { change(part.bus); });
}

SoundPtr printed(const Project& project) {
  JobContext job;
  PrintOptions options;
  options.limiter = false;
  return *print(compileSong(project), options, job);
}

class Live {
public:
  explicit Live(const Project& project, bool plays = true) {
    m_engine.setLimiterOff();
    set(project);
    if (plays) m_engine.send(Engine::Command{Kind::Play});
  }
  void set(const Project& project) {
    m_engine.setScore(std::make_shared<Score>(compileSong(project)));
  }
  void run(int frames, int block = 128) {
    for (int done = 0; done < frames; done += block) {
      const int n = std::min(block, frames - done);
      Samples l(static_cast<std::size_t>(n)), r(l.size());
      m_engine.process(l.data(), r.data(), n);
      left.insert(left.end(), l.begin(), l.end());
      right.insert(right.end(), r.begin(), r.end());
    }
  }
  [[nodiscard]] float peak(int last) const {
    return peakOf(std::span(left).last(std::size_t(last)));
  }
  [[nodiscard]] float steepest(int last) const {
    float most = 0;
    for (std::size_t i = left.size() - std::size_t(last); i < left.size(); ++i)
      most = std::max(most, std::abs(left[i] - left[i - 1]));
    return most;
  }
  Engine& engine() { return m_engine; }
  Samples left, right;

private:
  Engine m_engine;
};

ProcessorSettings filter(Id id, double cutoff, bool on = true, double mode = 0) {
  return {id, "filter", on, {{"cutoff", cutoff}, {"mode", mode}}, {}};
}
ProcessorSettings limiter(Id id, double ceiling = 0) {
  return {id, "limiter", true, {{"ceiling", ceiling}}, {}};
}

/// As steep as a sine of this gets between two frames.
float slopeOf(double hz, double amplitude) { return float(2 * M_PI * hz / 48000 * amplitude); }

} // namespace

class TestGraph : public QObject {
  Q_OBJECT
private slots:
  void levelPanWidthAndMuteMoveWhatRings() {
    const Two two = twoParts();
    const Project p = without(two.project, two.pattern, two.part(two.click));
    Two alone = two;
    alone.project = p;
    Live live(p);
    live.run(12'800);
    QVERIFY(std::abs(live.peak(1000) - 0.5f) < 0.01f);
    const float steep = slopeOf(220, 0.5) * 1.1f;
    live.set(withBus(alone, two.tone, [](BusSettings& bus) { bus.level = Decibels(-12); }));
    live.run(9600);
    QVERIFY(std::abs(live.peak(1000) - 0.5f * 0.2512f) < 0.005f);
    QVERIFY2(live.steepest(9600) < steep, qPrintable(QString::number(live.steepest(9600))));
    live.set(withBus(alone, two.tone, [](BusSettings& bus) { bus.pan = 1; }));
    live.run(9600);
    QVERIFY(live.peak(1000) < 0.002f); // all of it is right
    QVERIFY2(live.steepest(9600) < steep, qPrintable(QString::number(live.steepest(9600))));
    live.set(withPartChanged(p, two.part(two.tone), [](Part& part) { part.muted = true; }));
    live.run(9600);
    QCOMPARE(live.peak(1000), 0.0f);
    live.set(p);
    live.run(9600);
    QVERIFY(std::abs(live.peak(1000) - 0.5f) < 0.01f);
    QVERIFY2(live.steepest(9600) < steep, qPrintable(QString::number(live.steepest(9600))));
    // A key's own level and pan move it, too.
    live.set(withKeyChanged(p, two.tone, [](Key& key) { key.level = Decibels(-6); }));
    live.run(9600);
    QVERIFY(std::abs(live.peak(1000) - 0.2506f) < 0.005f);
    QVERIFY2(live.steepest(9600) < steep, qPrintable(QString::number(live.steepest(9600))));
  }

  /// Of a sound that stands still: what moves it moves every frame of a quantum by the same.
  void whatMovesItMovesInEvenSteps() {
    const Two two = standingStill();
    Project moved[5];
    moved[0] = withBus(two, two.tone, [](BusSettings& bus) { bus.level = Decibels(-12); });
    moved[1] = withBus(two, two.tone, [](BusSettings& bus) { bus.pan = -0.5; });
    moved[2] = withBus(two, two.tone, [](BusSettings& bus) { bus.width = 0; });
    moved[3] = withBus(two, two.tone, [](BusSettings& bus) { bus.sends[1] = Decibels(0); });
    moved[4] = two.project;
    moved[4].rows[std::size_t(Row::Body)].level = Decibels(6);
    for (const auto& project : moved) {
      Live live(two.project);
      live.run(100 * 64, 64);
      const std::size_t from = live.left.size();
      live.set(project);
      live.run(20 * 64, 64);
      float most = 0;
      for (const Samples& side : {live.left, live.right})
        for (std::size_t quantum = from; quantum < side.size(); quantum += 64) {
          const float whole = side[quantum + 63] - side[quantum - 1];
          most = std::max(most, std::abs(whole));
          for (std::size_t i = 0; i < 64; ++i)
            QVERIFY2(std::abs(side[quantum + i] - side[quantum + i - 1] - whole / 64) < 2e-6f,
                     qPrintable(QString("%1 at %2").arg(&project - moved).arg(i)));
        }
      QVERIFY2(most > 1e-3f, qPrintable(QString::number(&project - moved)));
    }
  }

  /// A key's own level and place move both sides of what rings, and neither goes past where it
  /// goes.
  void aKeysOwnLevelAndPanMoveBothSidesOneWay() {
    const Two two = standingStill();
    for (const auto& project :
         {withKeyChanged(two.project, two.tone, [](Key& key) { key.level = Decibels(-9); }),
          withKeyChanged(two.project, two.tone, [](Key& key) { key.pan = 0.6; }),
          withKeyChanged(two.project, two.tone, [](Key& key) { key.pan = -0.6; })}) {
      Live live(two.project);
      live.run(6400);
      live.set(project);
      live.run(6400);
      for (const Samples& side : {live.left, live.right}) {
        const float from = side[6399], to = side.back(), way = to < from ? -1.0f : 1.0f;
        for (std::size_t i = 6400; i < side.size(); ++i)
          QVERIFY2((side[i] - side[i - 1]) * way > -1e-6f, qPrintable(QString::number(i)));
      }
    }
  }

  void soloLeavesOnlyWhatIsSolo() {
    const Two two = twoParts();
    const auto loud = [&](const Project& project) {
      const auto sound = printed(project);
      // The tone sounds all the time, a click between its beats never.
      const bool tone = peakOf(*sound, Frames(10'000), Frames(20'000)) > 0.1f;
      const auto first = std::abs(sound->channel(0)[0]);
      return QString(tone ? "tone " : "") + (first > 0.2f ? "click" : "");
    };
    QCOMPARE(loud(two.project), QString("tone click"));
    for (Whose whose : {Whose::Key, Whose::Part, Whose::Role}) {
      const Project tone = withMuteFlipped(two.project, two.tone, whose, true);
      QCOMPARE(loud(tone), QString("tone "));
      QCOMPARE(loud(withMuteFlipped(tone, two.click, whose, true)), QString("tone click"));
      QCOMPARE(loud(withMuteFlipped(two.project, two.click, whose, false)), QString("tone "));
      // What is muted is not heard, solo or not.
      QCOMPARE(loud(withMuteFlipped(tone, two.tone, whose, false)), QString());
    }
  }

  void theFirstHitAfterAMuteHasItsAttack() {
    const Two two = twoParts();
    const Project p = without(two.project, two.pattern, two.part(two.tone));
    Live live(withPartChanged(p, two.part(two.click), [](Part& part) { part.muted = true; }));
    live.run(12'800); // one click is muted and over
    QCOMPARE(live.peak(12'800), 0.0f);
    live.set(p);
    live.run(19'200);
    QCOMPARE(live.peak(19'200), 0.5f);
  }

  void whatIsTakenBackWhileItLeavesIsAsItWas() {
    Two two = twoParts();
    const Project plain = without(two.project, two.pattern, two.part(two.click));
    two.project = plain;
    const Project with = withBus(two, two.tone, [](BusSettings& b) { b.chain = {limiter(1500)}; });
    Live calm(with), undone(with);
    calm.run(12'800 + 704 + 25'600);
    undone.run(12'800);
    undone.set(plain);
    undone.run(704); // in the middle of its leaving: its sound is gone, its delay is not
    undone.set(with);
    undone.run(25'600);
    for (std::size_t i = calm.left.size() - 6400; i < calm.left.size(); ++i)
      QVERIFY(std::abs(calm.left[i] - undone.left[i]) < 1e-6f);
    const std::size_t steps = 6400; // and switched off it is as late as it was
    const Project off = withBus(two, two.tone, [](BusSettings& b) {
      b.chain = {limiter(1500)};
      b.chain[0].on = false;
    });
    undone.set(off);
    undone.run(int(steps) * 2);
    calm.run(int(steps) * 2);
    for (std::size_t i = calm.left.size() - steps; i < calm.left.size(); ++i)
      QVERIFY(std::abs(calm.left[i] - undone.left[i]) < 1e-6f);
  }

  void rowsSendsAndMasterAddUp() {
    const Two two = twoParts();
    Two alone = two;
    alone.project = without(two.project, two.pattern, two.part(two.tone));
    const float plain = printed(alone.project)->channel(0)[0];
    QCOMPARE(plain, 0.5f);
    const auto at0 = [&](const Project& p) { return double(printed(p)->channel(0)[0]); };
    Project p = alone.project;
    p.rows[std::size_t(Row::Floor)].level = Decibels(-6);
    QVERIFY(std::abs(at0(p) - 0.5 * std::pow(10, -6 / 20.0)) < 1e-6);
    p.master.level = Decibels(3);
    QVERIFY(std::abs(at0(p) - 0.5 * std::pow(10, -3 / 20.0)) < 1e-6);
    // What is sent comes after the part's own level; the send has its own.
    p = withBus(alone, two.click, [](BusSettings& bus) {
      bus.level = Decibels(-6);
      bus.sends[2] = Decibels(-6);
    });
    QVERIFY(std::abs(at0(p) - 0.5 * (std::pow(10, -6 / 20.0) + std::pow(10, -12 / 20.0))) < 1e-6);
    p.sends[2].level = Decibels(6);
    QVERIFY(std::abs(at0(p) - 0.5 * (2 * std::pow(10, -6 / 20.0))) < 1e-6);
    // A muted row is silent, whatever it is sent.
    p.roles[std::size_t(Row::Floor)].muted = true;
    QCOMPARE(at0(p), 0.0);
  }

  void widthScalesTheSidesAgainstTheMiddle() {
    // By the definition of middle and side: M = (L + R) / 2, S = (L − R) / 2.
    for (double width : {0.0, 0.5, 1.0, 2.0}) {
      const auto m = stereoMatrix(1, 0, width);
      const double l = 0.3, r = -0.1, mid = (l + r) / 2, side = (l - r) / 2;
      QVERIFY(std::abs(double(m[0]) * l + double(m[1]) * r - (mid + width * side)) < 1e-6);
      QVERIFY(std::abs(double(m[2]) * l + double(m[3]) * r - (mid - width * side)) < 1e-6);
    }
  }

  void anyBlockSizeGivesThePrint() {
    Two two = twoParts();
    two.project = withBus(two, two.tone, [](BusSettings& bus) {
      bus.chain = {filter(901, 400), limiter(902, -9)};
      bus.sends[0] = Decibels(-3);
    });
    two.project.sends[0].chain = {filter(903, 3000, true, 1)};
    two.project.master.chain = {filter(904, 9000)};
    two.project = withPartChanged(two.project, two.part(two.tone), [&](Part& part) {
      part.duck = {two.part(two.click), Decibels(18), Milliseconds(200)};
    });
    const SoundPtr print = printed(two.project);
    for (int block : {1, 7, 63, 64, 65, 441, 1024, 4096}) {
      Live live(two.project);
      const int frames = block == 1 ? 20'000 : 150'000;
      live.run(frames, block);
      const int late = live.engine().latency();
      QCOMPARE(late, 63);
      for (int i = late; i < frames; ++i)
        if (live.left[std::size_t(i)] != print->channel(0)[std::size_t(i - late)])
          QFAIL(qPrintable(QString("block %1 frame %2").arg(block).arg(i)));
    }
  }

  void whatIsSlowMakesTheOthersWait() {
    // One of two clicks goes through a limiter that looks ahead; both come out on one frame, and
    // the print is not late at all.
    Two two = twoParts();
    Project p = without(two.project, two.pattern, two.part(two.tone));
    Id second = 0;
    p = withKeySound(p, Row::Air, 0, 0, {findKey(p, two.click)->sound.source, 0}, "b", &second);
    p = withPatternChanged(p, two.pattern, [&](Pattern& pattern) {
      Hit hit;
      hit.key = second;
      hit.velocity = 1;
      laneOf(pattern, findKey(p, second)->part).hits = {hit};
    });
    p = withPartChanged(p, findKey(p, second)->part,
                        [](Part& part) { part.bus.chain = {limiter(950)}; });
    const auto print = printed(p);
    QCOMPARE(print->channel(0)[0], 1.0f);
    QCOMPARE(peakOf(print->channel(0).subspan(1, 190)), 0.0f);
    // What is sent waits as well.
    p = withPartChanged(p, findKey(p, two.click)->part,
                        [](Part& part) { part.bus.sends[1] = Decibels(0); });
    QCOMPARE(printed(p)->channel(0)[0], 1.5f);
    // And a processor that is switched off is as late as one that is on.
    p = withPartChanged(p, findKey(p, second)->part,
                        [](Part& part) { part.bus.chain[0].on = false; });
    const auto off = printed(p);
    QCOMPARE(off->channel(0)[0], 1.5f);
    QCOMPARE(peakOf(off->channel(0).subspan(1, 190)), 0.0f);
  }

  void aChainIsEditedWithoutAStep() {
    Two two = twoParts();
    two.project = without(two.project, two.pattern, two.part(two.click));
    const auto with = [&](std::vector<ProcessorSettings> chain) {
      return withBus(two, two.tone, [&](BusSettings& bus) { bus.chain = std::move(chain); });
    };
    Live live(two.project);
    live.run(6400);
    const float steep = slopeOf(220, 0.5) * 1.15f;
    const std::vector<std::vector<ProcessorSettings>> edits{
        {filter(1001, 200)},                               // comes
        {filter(1001, 200, false)},                        // is switched off
        {filter(1001, 200), filter(1002, 1000, true, 1)},  // another behind it
        {filter(1002, 1000, true, 1), filter(1001, 200)},  // they change places
        {limiter(1003), filter(1002, 1000, true, 1)},      // one goes, one comes
        {filter(1002, 1000, true, 1), limiter(1003, -20)}, //
        {},                                                // all go
    };
    for (std::size_t i = 0; i < edits.size(); ++i) {
      live.set(with(edits[i]));
      live.run(6400);
      QVERIFY2(live.steepest(6400) < steep,
               qPrintable(QString("%1: %2").arg(i).arg(live.steepest(6400))));
    }
    QVERIFY(std::abs(live.peak(1000) - 0.5f) < 0.01f);
  }

  void whatAProcessorRemembersOutlivesAnEdit() {
    // A filter that rings after a click: scores that say the same change nothing of it.
    Two two = twoParts();
    two.project = without(two.project, two.pattern, two.part(two.tone));
    ProcessorSettings ringing = filter(1100, 300, true, 2);
    ringing.figures["resonance"] = 24;
    two.project = withBus(two, two.click, [&](BusSettings& bus) { bus.chain = {ringing}; });
    Live calm(two.project), busy(two.project);
    calm.run(24'000);
    for (int i = 0; i < 24'000; i += 480) {
      busy.run(480);
      busy.set(two.project);
    }
    QVERIFY(calm.peak(20'000) > 0);
    QVERIFY(calm.left == busy.left);
  }

  void anyPartDucksByAnyOther() {
    Two two = twoParts();
    // Twenty parts with a tone, all of them stepping back for the click.
    std::vector<Id> keys{two.tone};
    for (int i = 0; i < 19; ++i) {
      Id key = 0;
      two.project =
          withKeySound(two.project,
                       i < 7    ? Row::Air
                       : i < 14 ? Row::Body
                                : Row::Floor,
                       1 + i % 7, 0, {findKey(two.project, two.tone)->sound.source, 0}, "t", &key);
      keys.push_back(key);
    }
    two.project = withPatternChanged(two.project, two.pattern, [&](Pattern& pattern) {
      for (Id key : keys) {
        Hit hit;
        hit.key = key;
        hit.velocity = 0.5;
        laneOf(pattern, two.part(key)).hits = {hit};
      }
    });
    const double before = double(peakOf(*printed(two.project), Frames(26'000), Frames(28'000)));
    for (Id key : keys)
      two.project = withPartChanged(two.project, two.part(key), [&](Part& part) {
        part.duck = {two.part(two.click), Decibels(20), Milliseconds(2000)};
      });
    // 2000 frames after a click a duck of 20 dB stands at 1 − 0.9 · e^(−1904 / 32000).
    const double wanted = 1 - 0.9 * std::exp(-1904 / 32'000.0);
    const double after = double(peakOf(*printed(two.project), Frames(26'000), Frames(26'010)));
    const double plain = [&] {
      Project p = two.project;
      for (Id key : keys) p = withPartChanged(p, two.part(key), [](Part& part) { part.duck = {}; });
      return double(peakOf(*printed(p), Frames(26'000), Frames(26'010)));
    }();
    QVERIFY(before > 1);
    QVERIFY(std::abs(after / plain - wanted) < 0.01);
  }

  void whatIsSilentCostsNothingAndWhatIsOffIsAsIfNotThere() {
    Two two = twoParts();
    const SoundPtr plain = printed(two.project);
    two.project = withBus(two, two.tone, [](BusSettings& bus) {
      bus.chain = {filter(1200, 200, false), {1201, "melt", true, {{"heat", 3}}, {}}};
    });
    const SoundPtr off = printed(two.project);
    QVERIFY(std::ranges::equal(plain->channel(0), off->channel(0)));
    // A bus that rests is passed by: what its processor gave is gone when it sounds again.
    const GraphPlan plan = graphPlanOf(two.project, kEngineRate);
    GraphMaker maker(kEngineRate);
    const auto graph = maker.make(plan);
    graph->begin(nullptr);
    for (int i = 0; i < graph->count(); ++i) QVERIFY(!graph->bus(i).finish(0));
  }

  void aBusThatWentWrongIsSilencedAndPlaysOn() {
    const Two two = twoParts();
    Project p = withBus(two, two.tone, [](BusSettings& bus) { bus.chain = {filter(1300, 900)}; });
    const GraphPlan plan = graphPlanOf(p, kEngineRate);
    GraphMaker maker(kEngineRate);
    const auto graph = maker.make(plan);
    graph->begin(nullptr);
    const auto play = [&](float sample) {
      auto in = graph->bus(plan.busOf(two.part(two.tone), Row::Body)).input();
      std::fill_n(in.left, kQuantum, sample);
      std::fill_n(in.right, kQuantum, sample);
      std::array<float, kQuantum> left{}, right{};
      graph->finish(0, left.data(), right.data());
      return left[kQuantum - 1];
    };
    for (int i = 0; i < 50; ++i) (void)play(0.5f);
    QVERIFY(std::abs(play(0.5f) - 0.5f) < 0.01f);
    QCOMPARE(play(std::numeric_limits<float>::quiet_NaN()), 0.0f);
    for (int i = 0; i < 50; ++i) (void)play(0.5f);
    QVERIFY(std::abs(play(0.5f) - 0.5f) < 0.01f);
  }

  // From its first frame on, without a way from the standard to what is set.
  void partsWithoutABusGoToTheirRowElseToTheMaster() {
    const Two two = twoParts();
    const GraphPlan plan = graphPlanOf(two.project, Hertz(48000));
    QCOMPARE(plan.busOf(two.part(two.tone), Row::Body),
             plan.find(BusPlan::Kind::Part, two.part(two.tone)));
    for (const Id unknown : {Id(0), Id(999)})
      for (const Row row : {Row::Body, Row::Floor})
        QCOMPARE(plan.busOf(unknown, row), plan.find(BusPlan::Kind::Row, Id(row)));
    QCOMPARE(GraphPlan{}.busOf(two.part(two.tone), Row::Body), 0);
  }

  void aProcessorBeginsWhereItIsSet() {
    const Two two = twoParts(220);
    const Project high = withBus(two, two.tone, [](BusSettings& bus) {
      bus.chain = {filter(1400, 6000, true, 1)}; // high-pass, nearly five octaves above the tone
    });
    const auto sound = printed(without(high, two.pattern, two.part(two.click)));
    QVERIFY(peakOf(*sound, Frames(0), Frames(4800)) < 0.01f);
  }

  void busesAreSavedAndReadAndUnknownKindsSurvive() {
    Two two = twoParts();
    two.project = withBus(two, two.tone, [](BusSettings& bus) {
      bus.level = Decibels(-4.5);
      bus.pan = -0.3;
      bus.width = 0.7;
      bus.sends[1] = Decibels(-9);
      bus.chain = {filter(1400, 777), {1401, "melt", false, {{"heat", 3}}, {}}, limiter(1402)};
    });
    for (std::size_t row = 0; row < two.project.rows.size(); ++row)
      two.project.rows[row].level = Decibels(2 + double(row));
    for (std::size_t send = 0; send < two.project.sends.size(); ++send)
      two.project.sends[send].pan = 0.1 * double(send + 1);
    two.project.sends[3].chain = {filter(1403, 90, true, 1)};
    two.project.master.width = 1.2;
    two.project.nextId = 1404;
    const std::string text = projectToText(two.project, 1);
    const auto read = projectFromText(text, "x");
    QVERIFY(read.ok());
    QVERIFY(read->project.parts == two.project.parts);
    QVERIFY(read->project.rows == two.project.rows);
    QVERIFY(read->project.sends == two.project.sends);
    QVERIFY(read->project.master == two.project.master);
    QCOMPARE(read->warnings.size(), std::size_t(1)); // of what melts
    QCOMPARE(projectToText(read->project, 1), text);
    QVERIFY(read->project.nextId > 1403); // no number is given twice
  }
};

QTEST_GUILESS_MAIN(TestGraph)
#include "tst_graph.moc"
