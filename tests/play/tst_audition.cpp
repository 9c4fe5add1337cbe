// A source heard beside the beat: in phase with its bars, without a click, without end.
#include "play/engine.h"
#include "support.h"

#include <QTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

constexpr Bpm kTempo{120};
constexpr std::int64_t kBar = 96000;

/// A bar of silence with one mark: a plateau of a few milliseconds, so that fades do not hide it.
Audition marked(std::int64_t bars, std::int64_t markAt, std::uint32_t which = 1,
                bool loops = true) {
  Samples samples(std::size_t(bars * kBar), 0.0f);
  for (std::int64_t i = markAt; i < markAt + 400; ++i) samples[std::size_t(i)] = 0.5f;
  Audition audition;
  audition.sound = makeSound(std::move(samples), 48000);
  audition.loops = loops;
  audition.which = which;
  audition.tempo = kTempo;
  return audition;
}

ScorePtr scoreWith(const Audition& audition, int patternBars = 2) {
  auto score = std::make_shared<Score>();
  score->loops = true;
  score->tempo = TempoMap(kTempo);
  score->length = EngineFrames(patternBars * kBar);

  score->audition = audition;
  return score;
}

class Bench {
public:
  Bench() { m_engine.setLimiterOff(); }
  Engine& engine() { return m_engine; }
  void command(Engine::Command::Kind kind, std::int64_t frame = 0) {
    Engine::Command c{kind};
    c.frame = EngineFrames(frame);
    m_engine.send(c);
  }
  /// Renders and gives the frames at which something begins.
  std::vector<std::int64_t> run(std::int64_t frames, int block = 480) {
    std::vector<std::int64_t> marks;
    Samples left(static_cast<std::size_t>(block)), right(left);
    for (std::int64_t done = 0; done < frames; done += block) {
      m_engine.process(left.data(), right.data(), block);
      for (int i = 0; i < block; ++i) {
        const float v = left[std::size_t(i)];
        m_jump = std::max(m_jump, std::abs(v - m_last));
        if (v > 0.25f && m_now + i - m_mark > 1000) marks.push_back(m_mark = m_now + i);
        if (v > 0.25f) m_mark = m_now + i;
        m_last = v;
      }
      m_now += block;
    }
    return marks;
  }
  float largestJump() const { return m_jump; }

private:
  Engine m_engine;
  std::int64_t m_now = 0, m_mark = -10000;
  float m_last = 0, m_jump = 0;
};

} // namespace

class TestAudition : public QObject {
  Q_OBJECT
private slots:
  void itsBarsLieOnTheBarsThatPlay() {
    Bench bench;
    bench.engine().setScore(scoreWith({}));
    bench.command(Engine::Command::Kind::Play);
    bench.run(kBar / 4); // into the second beat
    bench.engine().setScore(scoreWith(marked(1, 48000)));
    const auto marks = bench.run(4 * kBar);
    QCOMPARE(marks.size(), std::size_t(4));
    for (const auto mark : marks) QCOMPARE(mark % kBar, std::int64_t(48000)); // the third beat
  }

  void aLongerLoopRunsOnOverAShorterPattern() {
    Bench bench;
    bench.engine().setScore(scoreWith(marked(3, 1000), 2)); // three bars over two
    bench.command(Engine::Command::Kind::Play);
    const auto marks = bench.run(12 * kBar);
    QCOMPARE(marks.size(), std::size_t(4));
    for (std::size_t i = 1; i < marks.size(); ++i) QCOMPARE(marks[i] - marks[i - 1], 3 * kBar);
  }

  void itStaysInPhaseThroughRoundings() {
    // A tempo whose bar is no whole number of frames, for four minutes.
    Bench bench;
    auto score = std::make_shared<Score>(*scoreWith({}));
    score->tempo = TempoMap(Bpm(93.7));
    const double bar = 4 * framesOfBeat(Bpm(93.7), kEngineRate);
    score->length = EngineFrames(std::llround(2 * bar));
    Samples samples(std::size_t(std::llround(3 * bar)), 0.0f);
    for (int i = 0; i < 400; ++i) samples[std::size_t(i + 5000)] = 0.5f;
    score->audition = {makeSound(std::move(samples), 48000), true, false, 1, 1, Bpm(93.7)};
    bench.engine().setScore(score);
    bench.command(Engine::Command::Kind::Play);
    const auto marks = bench.run(240 * 48000);
    QVERIFY(marks.size() > 25);
    // Against the pattern's own rounds, which are whole frames.
    const double round = double(score->length.value) / 2;
    for (const auto mark : marks) {
      const double off = std::fmod(double(mark) - 5000 + round / 2, round) - round / 2;
      QVERIFY2(std::abs(off) < 8, qPrintable(QString::number(off)));
    }
  }

  void playingAgainFromElsewhereKeepsThePhase() {
    Bench bench;
    bench.engine().setScore(scoreWith(marked(1, 48000)));
    bench.run(9600); // before anything plays it runs by itself
    bench.command(Engine::Command::Kind::Play, 24000);
    const auto marks = bench.run(2 * kBar);
    QVERIFY(marks.size() >= 2);
    QCOMPARE((marks.back() - 9600 + 24000) % kBar, std::int64_t(48000));
  }

  void theSameSourceAtAnotherTempoGoesOn() {
    Bench bench;
    bench.engine().setScore(scoreWith(marked(4, 3 * kBar + 1000, 7)));
    bench.command(Engine::Command::Kind::Play);
    bench.run(2 * kBar);
    bench.engine().setScore(scoreWith(marked(4, 3 * kBar + 1000, 7))); // made anew, same source
    const auto marks = bench.run(2 * kBar);
    QCOMPARE(marks.size(), std::size_t(1)); // not begun again
    QCOMPARE(marks[0], 3 * kBar + 1000);
    bench.engine().setScore(scoreWith(marked(4, 1000, 8))); // another source: from this bar on
    QCOMPARE(bench.run(kBar).size(), std::size_t(1));
  }

  void editsWhileItPlaysDoNotTouchIt() {
    Bench bench;
    const Audition audition = marked(1, 48000);
    bench.engine().setScore(scoreWith(audition));
    bench.command(Engine::Command::Kind::Play);
    std::vector<std::int64_t> marks;
    for (int i = 0; i < 20; ++i) { // scores come and go
      bench.engine().setScore(scoreWith(audition));
      for (const auto mark : bench.run(kBar / 5)) marks.push_back(mark);
    }
    QCOMPARE(marks.size(), std::size_t(4));
    for (const auto mark : marks) QCOMPARE(mark % kBar, std::int64_t(48000));
  }

  void nothingClicks() {
    Bench bench;
    Audition tone;
    tone.sound = makeSound(Samples(std::size_t(kBar), 0.5f), 48000); // the worst case
    tone.loops = true;
    tone.which = 1;
    bench.engine().setScore(scoreWith({}));
    bench.command(Engine::Command::Kind::Play);
    bench.run(5000);
    bench.engine().setScore(scoreWith(tone));
    bench.run(30000);
    bench.command(Engine::Command::Kind::Seek, 7000);
    bench.run(30000);
    bench.engine().setScore(scoreWith({}));
    bench.run(5000);
    QVERIFY2(bench.largestJump() < 0.005f, qPrintable(QString::number(bench.largestJump())));
  }

  void onceThroughEndsAndSaysSo() {
    Bench bench;
    bench.engine().setScore(scoreWith(marked(1, 1000, 3, false)));
    QCOMPARE(bench.run(3 * kBar).size(), std::size_t(1));
    int ended = 0;
    Engine::Report report{};
    while (bench.engine().nextReport(report))
      ended += report.kind == Engine::Report::Kind::AuditionEnded;
    QCOMPARE(ended, 1);
  }
};

QTEST_APPLESS_MAIN(TestAudition)
#include "tst_audition.moc"
