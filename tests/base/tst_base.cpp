#include "base/files.h"
#include "base/hash.h"
#include "base/jobs.h"
#include "base/spsc_queue.h"
#include "base/tempo_map.h"
#include "support.h"

#include <QtTest>
#include <cerrno>

using namespace tuvvo;

namespace {

/// Lets the n-th call fail; counts all.
class FailingCalls : public DiscCalls {
public:
  int failAt = -1, count = 0;
  int open(const char* p, int f, unsigned m) override {
    return fails() ? -1 : DiscCalls::open(p, f, m);
  }
  long write(int fd, const void* b, std::size_t n) override {
    return fails() ? -1 : DiscCalls::write(fd, b, n);
  }
  int fsync(int fd) override { return fails() ? -1 : DiscCalls::fsync(fd); }
  int rename(const char* a, const char* b, bool over) override {
    return fails() ? -1 : DiscCalls::rename(a, b, over);
  }

private:
  bool fails() {
    if (count++ != failAt) return false;
    errno = ENOSPC;
    return true;
  }
};

} // namespace

class TestBase : public QObject {
  Q_OBJECT
private slots:
  void ticksDivideExactly() {
    for (std::int64_t division : {2, 3, 4, 5, 6, 7, 8, 9, 12, 16, 24, 32, 64})
      QCOMPARE(kTicksPerBeat % division, 0);
  }

  void tempoArithmeticByHand() {
    // beat = 60 / BPM: at 85 BPM 32 bars of four last 60 · 128 / 85 s = 90.352941… s.
    const TempoMap map(Bpm(85));
    QVERIFY(std::abs(map.secondsAt(wholeBeats(128)).value - 90.35294117647) < 1e-9);
    QCOMPARE(map.frameAt(wholeBeats(128), Hertz(48000)).value, 4336941);
    QCOMPARE(TempoMap(Bpm(120)).frameAt(wholeBeats(1), Hertz(48000)).value, 24000);
  }

  void tempoMapGoesThereAndBack() {
    Random random(5);
    for (int i = 0; i < 2000; ++i) {
      const TempoMap map(Bpm(40 + 180 * random.unit()));
      const Beats at(std::int64_t(random.next() % (kTicksPerBeat * 1000)));
      QCOMPARE(map.beatsAt(map.secondsAt(at)).value, at.value);
    }
  }

  void tempoStepsAndRamps() {
    // 60 BPM for four beats, then a ramp to 120 over four more: on it a beat lasts 60 / v, and the
    // integral of 60 / (60 + 15 b) from 0 to 4 is 4 ln 2 s (by hand). Then steps.
    const TempoMap map(Bpm(60), std::vector<TempoChange>{{wholeBeats(12), Bpm(30), false},
                                                         {wholeBeats(4), Bpm(60), false},
                                                         {wholeBeats(8), Bpm(120), true}});
    QVERIFY(!map.steady());
    const auto seconds = [&](double beats) {
      return map.framesAt(beats * double(kTicksPerBeat), Hertz(1));
    };
    QCOMPARE(seconds(4), 4.0);
    QVERIFY(std::abs(seconds(6) - (4 + 4 * std::log(1.5))) < 1e-12);
    QVERIFY(std::abs(seconds(8) - (4 + 4 * std::log(2.0))) < 1e-12);
    QVERIFY(std::abs(seconds(12) - (6 + 4 * std::log(2.0))) < 1e-12);
    QVERIFY(std::abs(seconds(13) - (8 + 4 * std::log(2.0))) < 1e-12);
    QCOMPARE(seconds(-2), -2.0); // a count-in goes by the first tempo
    QCOMPARE(map.tempoAt(wholeBeats(6)).value, 90.0);
    QCOMPARE(map.tempoAt(wholeBeats(8)).value, 120.0);
    QCOMPARE(map.tempoAt(wholeBeats(20)).value, 30.0);
    QCOMPARE(map.changeAfter(wholeBeats(4)), wholeBeats(8));
  }

  void anyTempoMapGoesThereAndBack() {
    Random random(11);
    for (int i = 0; i < 300; ++i) {
      std::vector<TempoChange> changes;
      for (std::uint64_t n = random.next() % 6; n > 0; --n)
        changes.push_back({Beats(std::int64_t(random.next() % 256) * kTicksPerBeat / 4),
                           Bpm(20 + 380 * random.unit()), random.unit() < 0.5});
      const TempoMap map(Bpm(40 + 180 * random.unit()), changes);
      double last = -1;
      for (int beat = -8; beat < 100; ++beat) {
        const Beats at(beat * kTicksPerBeat + std::int64_t(random.next() % kTicksPerBeat));
        QCOMPARE(map.beatsAt(map.secondsAt(at)), at);
        const double frame = map.framesAt(double(at.value), Hertz(48000));
        QVERIFY(frame > last || beat == -8);
        QVERIFY(std::abs(map.framesBetween(0, double(at.value), Hertz(48000)) - frame) < 1e-5);
        last = frame;
        // The tempo is the slope of the map.
        const double slope = map.framesAt(double(at.value) + 0.5, Hertz(48000)) -
                             map.framesAt(double(at.value) - 0.5, Hertz(48000));
        const bool border = std::any_of(changes.begin(), changes.end(), [&](const auto& change) {
          return std::abs((change.at - at).value) < 2;
        });
        if (!border)
          QVERIFY(std::abs(slope * double(kTicksPerBeat) /
                               map.framesPerBeat(Hertz(48000), double(at.value)) -
                           1) < 1e-5);
      }
    }
  }

  void tempoIsHeldInRange() {
    QCOMPARE(TempoMap(Bpm(0)).tempoAt(Beats(0)), kSlowestTempo);
    QCOMPARE(TempoMap(Bpm(1e9)).tempoAt(Beats(0)), kFastestTempo);
  }

  void hashTellsContentsApart() {
    QCOMPARE(contentHash("abc", 3).size(), std::size_t(32));
    QVERIFY(contentHash("abc", 3) != contentHash("abd", 3));
    ContentHasher pieces;
    pieces.add("a", 1);
    pieces.add("bc", 2);
    QCOMPARE(pieces.hex(), contentHash("abc", 3));
    // XXH3 128 of nothing, from the algorithm's published test vectors (seed 0).
    QCOMPARE(contentHash("", 0), std::string("99aa06d3014798d86001c324468d497f"));
  }

  void randomIsTheSameEverywhere() {
    // First outputs of SplitMix64 with seed 1234567, as in its authors' reference code.
    Random random(1234567);
    QCOMPARE(random.next(), std::uint64_t(6457827717110365317ULL));
    QCOMPARE(random.next(), std::uint64_t(3203168211198807973ULL));
  }

  void atomicWriteLeavesOldOrNew() {
    QTemporaryDir dir;
    const auto target = test::pathIn(dir, "file");
    QVERIFY(writeFileAtomically(target, "old").ok());
    FailingCalls calls;
    setDiscCalls(&calls);
    bool finished = false;
    int failures = 0;
    for (int n = 0; n < 40 && !finished; ++n) {
      calls.failAt = n;
      calls.count = 0;
      const auto result = writeFileAtomically(target, "new");
      const std::string now = *readFile(target, 100);
      QVERIFY2(now == "old" || now == "new", "half a file");
      if (!result) {
        ++failures;
        QVERIFY(!result.error().remedy.empty());
      }
      finished = result.ok();
      if (finished) QCOMPARE(now, std::string("new"));
    }
    setDiscCalls(nullptr);
    QVERIFY(finished);
    QVERIFY(failures >= 4); // open, write, fsync and rename can each fail
    QCOMPARE(std::distance(std::filesystem::directory_iterator(target.parent_path()), {}),
             1); // nothing left lying about
  }

  void readFileIsBounded() {
    QTemporaryDir dir;
    const auto path = test::pathIn(dir, "big");
    QVERIFY(writeFileAtomically(path, std::string(1000, 'x')).ok());
    QVERIFY(!readFile(path, 999).ok());
    QVERIFY(readFile(path, 1000).ok());
    QVERIFY(!readFile(test::pathIn(dir, "none"), 10).ok());
  }

  void jobsReportAndCancel() {
    std::atomic<int> ended{0};
    JobPool pool(2);
    auto context = pool.run([&](JobContext& job) {
      while (!job.cancelled()) std::this_thread::sleep_for(std::chrono::milliseconds(1));
      ++ended;
    });
    pool.run([&](JobContext& job) {
      job.report(1);
      ++ended;
    });
    context->cancel();
    pool.waitIdle();
    QCOMPARE(ended.load(), 2);
  }

  /// As many jobs at once as there are threads, and no more.
  void jobsRunOnAsManyThreads() {
    for (int threads : {1, 3}) {
      std::atomic<int> running{0}, most{0}, ended{0};
      JobPool pool(threads);
      for (int i = 0; i < 12; ++i)
        pool.run([&](JobContext&) {
          const int now = ++running;
          for (int seen = most; now > seen && !most.compare_exchange_weak(seen, now);) {
          }
          // Until all threads are at work, once; another one would come in meanwhile.
          for (int wait = 0; wait < 5000 && most < threads; ++wait)
            std::this_thread::sleep_for(std::chrono::milliseconds(1));
          std::this_thread::sleep_for(std::chrono::milliseconds(2));
          --running;
          ++ended;
        });
      pool.waitIdle();
      QCOMPARE(ended.load(), 12);
      QCOMPARE(most.load(), threads);
    }
  }

  void queueKeepsOrderAndSaysWhenFull() {
    SpscQueue<int, 8> queue;
    for (int i = 0; i < 7; ++i) QVERIFY(queue.push(i));
    QVERIFY(!queue.push(7));
    int item = -1;
    for (int i = 0; i < 7; ++i) {
      QVERIFY(queue.pop(item));
      QCOMPARE(item, i);
    }
    QVERIFY(!queue.pop(item));
  }
};

QTEST_APPLESS_MAIN(TestBase)
#include "tst_base.moc"
