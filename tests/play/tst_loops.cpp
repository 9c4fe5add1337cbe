// Bars that go round: which hits sound in them, and on which frames, against plain arithmetic.
#include "play/engine.h"
#include "support.h"

#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr int kBeat = 24000; ///< frames, at 120 BPM
using List = std::vector<std::int64_t>;

Score looped(const ClickProject& clicks, double from, double until) {
  CompileOptions options;
  options.loop = LoopSpan{at(from), at(until)};
  return compilePattern(clicks.project, clicks.pattern, options);
}

/// An engine that plays a score, and the frames of its clicks.
class Played {
public:
  explicit Played(Score score, EngineFrames from = {}) {
    m_engine.setLimiterOff();
    change(std::move(score));
    Engine::Command play{Engine::Command::Kind::Play};
    play.frame = from;
    m_engine.send(play);
  }
  void change(Score score) { m_engine.setScore(std::make_shared<Score>(std::move(score))); }
  Engine& engine() { return m_engine; }
  /// Of so many frames that come next, from where they begin.
  List clicks(int frames, int block = 480) {
    Samples left(static_cast<std::size_t>(frames)), right(left.size());
    for (int done = 0; done < frames; done += block) {
      const int n = std::min(block, frames - done);
      m_engine.process(left.data() + done, right.data() + done, n);
    }
    return clicksIn(Sound(Channels{left}, Hertz(48000)), 0.1f);
  }

private:
  Engine m_engine;
};

} // namespace

class TestLoops : public QObject {
  Q_OBJECT
private slots:
  void onlyItsBarsGoRound() {
    // Bars 2 and 3 of four: what stands at 0, 13 and 15 is not heard.
    const ClickProject clicks = clickProject({0, 4, 6.5, 11.75, 13, 15}, 120, 4);
    Played played(looped(clicks, 4, 12));
    QCOMPARE(played.clicks(16 * kBeat), (List{0, 60000, 186000, 192000, 252000, 378000}));
    // Two rounds of eight beats each have gone by since bar 2.
    QCOMPARE(played.engine().absolutePosition().value - 4 * kBeat, 16 * kBeat);
    QCOMPARE(looped(clicks, 4, 12).placeOf(played.engine().absolutePosition()).value,
             std::int64_t(4 * kBeat));
  }

  void whatIsEarlyOnItsOneSoundsAtItsEnd() {
    ClickProject clicks = clickProject({4, 8, 12}, 120, 4);
    clicks.project = withPatternChanged(clicks.project, clicks.pattern, [](Pattern& p) {
      for (auto& hit : p.lanes[0].hits) hit.microTiming = Milliseconds(-10);
    });
    Played played(looped(clicks, 4, 8));
    // The first time it has been missed, and sounds at once; then 10 ms before every round. What is
    // early on bar 3 is of bar 3, and stays out.
    QCOMPARE(played.clicks(9 * kBeat), (List{0, 4 * kBeat - 480, 8 * kBeat - 480}));
  }

  void itIsCountedInto() {
    const ClickProject clicks = clickProject({0, 4, 6}, 120, 2);
    Played played(looped(clicks, 4, 8), EngineFrames(-2 * kBeat));
    List heard = played.clicks(8 * kBeat);
    // The count-in's own clicks come first.
    std::erase_if(heard, [](std::int64_t at) { return at < 2 * kBeat - 2000; });
    QCOMPARE(heard.front(), std::int64_t(2 * kBeat));
    QCOMPARE(heard[1], std::int64_t(4 * kBeat));
  }

  void barsAreChosenWhileItPlays() {
    const ClickProject clicks = clickProject({0, 1, 2, 3, 4, 5, 6, 7}, 120, 2);
    Played played(compilePattern(clicks.project, clicks.pattern));
    QCOMPARE(played.clicks(kBeat * 5 / 2), (List{0, kBeat, 2 * kBeat}));
    // From the middle of bar 1 into bar 2: as far into it, so that the beat goes on.
    played.change(looped(clicks, 4, 8));
    QCOMPARE(played.clicks(2 * kBeat), (List{kBeat / 2, kBeat * 3 / 2}));
    const double there = played.engine().positionBeats();
    QVERIFY(there > 4 && there <= 8);
    // And out again: it goes on from where it is.
    played.change(compilePattern(clicks.project, clicks.pattern));
    QCOMPARE(played.clicks(kBeat), (List{kBeat / 2}));
  }

  void howTheFramesAreAskedForDoesNotMatter() {
    const ClickProject clicks = clickProject({4.1, 6.9, 11}, 97, 3);
    Played one(looped(clicks, 4, 12)), other(looped(clicks, 4, 12));
    QCOMPARE(one.clicks(400'000, 64), other.clicks(400'000, 1021));
  }

  void lanesOfTheirOwnLengthKeepTheirPlaces() {
    ClickProject clicks = clickProject({0}, 120, 3);
    clicks.project = withPatternChanged(clicks.project, clicks.pattern,
                                        [](Pattern& p) { p.lanes[0].length = wholeBeats(3); });
    // Every three beats: of bar 2 that is beats 6; of bar 3 beat 9.
    QCOMPARE(Played(looped(clicks, 4, 8)).clicks(8 * kBeat), (List{2 * kBeat, 6 * kBeat}));
    QCOMPARE(Played(looped(clicks, 8, 12)).clicks(8 * kBeat), (List{kBeat, 5 * kBeat}));
  }

  void everyNthTimeCountsItsRounds() {
    ClickProject clicks = clickProject({4}, 120, 2);
    clicks.project = withPatternChanged(clicks.project, clicks.pattern, [](Pattern& p) {
      p.lanes[0].hits[0].condition = {1, 3, 2};
    });
    QCOMPARE(Played(looped(clicks, 4, 8)).clicks(28 * kBeat), (List{4 * kBeat, 16 * kBeat}));
  }

  void barsOfTheSongGoRound() {
    ClickProject clicks = clickProject({0, 3}, 120, 1);
    // Three sections of a bar, the second in 3/4 and with its own click.
    Pattern waltz;
    waltz.bars = 1;
    waltz.meter = {3, 4};
    Hit hit;
    hit.at = at(1);
    hit.key = clicks.key;
    hit.velocity = 1;
    laneOf(waltz, findKey(clicks.project, clicks.key)->part).hits = {hit};
    Section section;
    section.bars = 1;
    clicks.project = withPattern(clicks.project, waltz, &section.pattern);
    clicks.project = withSection(clicks.project, section, 1);
    section.pattern = clicks.pattern;
    clicks.project = withSection(clicks.project, section, 2);
    CompileOptions options;
    options.loop = LoopSpan{at(4), at(7)};
    const Score score = compileSong(clicks.project, options);
    QVERIFY(score.loops);
    QCOMPARE(Played(score).clicks(7 * kBeat), (List{kBeat, 4 * kBeat}));
    // Over a border of sections.
    options.loop = LoopSpan{at(4), at(11)};
    QCOMPARE(Played(compileSong(clicks.project, options)).clicks(8 * kBeat),
             (List{kBeat, 3 * kBeat, 6 * kBeat}));
    // A loop past its end is none.
    options.loop = LoopSpan{at(40), at(44)};
    QVERIFY(!compileSong(clicks.project, options).loops);
  }
};

QTEST_GUILESS_MAIN(TestLoops)
#include "tst_loops.moc"
