// The audio thread never allocates, locks, calls the system or waits for a page: all are trapped
// while process() runs.
#include "formats/shipped.h"
#include "play/engine.h"
#include "support.h"
#include "support/filtered_keys.h"

#include <QtTest>
#include <dlfcn.h>
#include <linux/prctl.h>
#include <pthread.h>
#include <signal.h>
#include <sys/mman.h>
#include <sys/prctl.h>
#include <sys/resource.h>
#include <unistd.h>

namespace {
thread_local bool guarded = false;
std::atomic<int> allocations{0}, locks{0}, systemCalls{0};
/// Syscall user dispatch (Linux 5.11): while this says so, a system call of this thread is a SIGSYS
/// instead.
volatile char dispatch = SYSCALL_DISPATCH_FILTER_ALLOW;
bool dispatches = false;

void onSystemCall(int) {
  dispatch = SYSCALL_DISPATCH_FILTER_ALLOW;
  ++systemCalls;
}

long pageFaults() {
  rusage usage{};
  getrusage(RUSAGE_THREAD, &usage); // getrusage(2): minor and major ones of this thread
  return usage.ru_minflt + usage.ru_majflt;
}
long faults = 0, faultsBefore = 0;

void guard(bool on) {
  if (on) faultsBefore = pageFaults();
  guarded = on;
  dispatch = on && dispatches ? SYSCALL_DISPATCH_FILTER_BLOCK : SYSCALL_DISPATCH_FILTER_ALLOW;
  if (!on) faults += pageFaults() - faultsBefore;
}

/// A thread's stack grows page by page; what plays sound has used its own before.
void touchTheStack() {
  volatile char room[256 * 1024];
  for (std::size_t at = 0; at < sizeof room; at += 1024) room[at] = 1;
}

template <class Function> Function real(const char* name) {
  return reinterpret_cast<Function>(dlsym(RTLD_NEXT, name));
}
} // namespace

// glibc's own entry points, so that looking up the real ones needs no memory.
extern "C" {
void* __libc_malloc(std::size_t);
void __libc_free(void*);
void* __libc_calloc(std::size_t, std::size_t);
void* __libc_realloc(void*, std::size_t);

void* malloc(std::size_t size) {
  if (guarded) ++allocations;
  return __libc_malloc(size);
}
void free(void* p) {
  if (guarded && p) ++allocations;
  __libc_free(p);
}
void* calloc(std::size_t n, std::size_t size) {
  if (guarded) ++allocations;
  return __libc_calloc(n, size);
}
void* realloc(void* p, std::size_t size) {
  if (guarded) ++allocations;
  return __libc_realloc(p, size);
}
int pthread_mutex_lock(pthread_mutex_t* mutex) {
  if (guarded) ++locks;
  static auto lock = real<int (*)(pthread_mutex_t*)>("pthread_mutex_lock");
  return lock(mutex);
}
int pthread_cond_wait(pthread_cond_t* condition, pthread_mutex_t* mutex) {
  if (guarded) ++locks;
  static auto wait = real<int (*)(pthread_cond_t*, pthread_mutex_t*)>("pthread_cond_wait");
  return wait(condition, mutex);
}
}

using namespace tuvvo;

class TestRealtime : public QObject {
  Q_OBJECT
private slots:
  void initTestCase() {
    struct sigaction action {};
    action.sa_handler = onSystemCall;
    sigaction(SIGSYS, &action, nullptr);
    dispatches = prctl(PR_SET_SYSCALL_USER_DISPATCH, PR_SYS_DISPATCH_ON, 0, 0, &dispatch) == 0;
    QVERIFY2(dispatches, "this kernel cannot trap system calls");
    touchTheStack();
  }

  void theTrapsWork() {
    std::mutex mutex;
    void* const page =
        ::mmap(nullptr, 4096, PROT_READ | PROT_WRITE, MAP_PRIVATE | MAP_ANONYMOUS, -1, 0);
    allocations = locks = systemCalls = 0;
    faults = 0;
    guard(true);
    auto* volatile p = new std::vector<int>(100);
    delete p;
    mutex.lock();
    mutex.unlock();
    (void)::getppid();
    auto* const fresh = static_cast<volatile char*>(page);
    *fresh = 1;
    guard(false);
    QVERIFY(systemCalls > 0);
    QVERIFY(faults > 0);
    ::munmap(page, 4096);
    QVERIFY(allocations >= 2);
    QVERIFY(locks >= 1);
  }

  void processNeverAllocatesOrLocks() {
    JobContext job;
    const Project demo = *shippedDemo(TUVVO_DATA_DIR, job);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compileSong(demo)));
    engine.send({Engine::Command::Kind::Play});
    Samples l(256), r(256), in(256, 0.1f);
    allocations = locks = systemCalls = 0;
    Random random(3);
    for (int block = 0; block < 4000; ++block) {
      // The owner's side of things happens between, unguarded: new scores, strikes, seeks, reports.
      if (block % 50 == 7) {
        CompileOptions options; // with something auditioned now and then
        if (block % 150 != 7)
          options.audition = {demo.sources[std::size_t(block / 50 % 2)]->sound, block % 200 == 7,
                              false, 1, std::uint32_t(block / 300)};
        options.monitor.on = block % 250 == 7; // what comes in is heard, and caught
        options.monitor.prints = block % 350 == 7;
        options.monitor.filters.low.corner = double(300 + block);
        Project edited = demo; // chains and tempi come and go
        edited.parts[0].bus.chain = {{9001, "filter", block % 150 < 50, {{"cutoff", 400}}, {}},
                                     {9002, "limiter", true, {{"ceiling", -6}}, {}}};
        if (block % 250 < 100) edited.parts[0].bus.chain.pop_back();
        edited.parts[1].bus.sends[0] = Decibels(-6);
        edited.sends[0].chain = {{9003, "filter", true, {{"mode", 1}}, {}}};
        if (block % 350 < 100)
          edited.tempoMarks = {{{wholeBeats(8), Bpm(120), false}, {}},
                               {{wholeBeats(24), Bpm(70), true}, {}}};
        engine.setScore(std::make_shared<Score>(
            block % 100 == 7 ? compilePattern(edited, edited.patterns[1]->id, options)
                             : compileSong(edited, options)));
      }
      if (block % 3 == 0) {
        Engine::Command strike{Engine::Command::Kind::Strike};
        strike.key = demo.keys[random.next() % demo.keys.size()].id;
        engine.send(strike);
      }
      if (block % 211 == 0) {
        Engine::Command seek{Engine::Command::Kind::Seek};
        seek.frame = EngineFrames(std::int64_t(random.next() % 2000000));
        engine.send(seek);
      }
      if (block % 500 == 0) {
        Engine::Command metronome{Engine::Command::Kind::Metronome};
        metronome.on = block % 1000 == 0;
        engine.send(metronome);
      }
      if (block % 700 == 0) engine.send({Engine::Command::Kind::Probe});
      const float* comesIn = block % 5 == 0 ? nullptr : in.data();
      guard(true);
      engine.process(l.data(), r.data(), 1 + int(random.next() % 256), Nanoseconds(1000 + block),
                     comesIn, comesIn);
      guard(false);
      if (block == 0) faults = 0; // it finds its own code
      InputLine::Place place;
      while (block % 40 == 0 && engine.input().nextPlace(place))
        engine.input().read(in.data(), in.data(), std::min(place.frames, 256));
      in.assign(256, 0.1f);
      Engine::Report report{};
      while (engine.nextReport(report)) {
      }
    }
    QCOMPARE(allocations.load(), 0);
    QCOMPARE(locks.load(), 0);
    QCOMPARE(systemCalls.load(), 0);
    QCOMPARE(faults, 0L);
  }

  void sixtyFourFilteredVoicesDoNot() {
    const auto made = test::filteredKeys(24);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compilePattern(made.project, 0)));
    Samples l(128), r(128);
    allocations = locks = systemCalls = 0;
    for (int i = 0; i < 64; ++i) {
      Engine::Command strike{Engine::Command::Kind::Strike};
      strike.key = made.keys[std::size_t(i % 24)];
      strike.touch = std::uint32_t(i + 1);
      engine.send(strike);
    }
    int most = 0;
    for (int block = 0; block < 1000; ++block) {
      guard(true);
      engine.process(l.data(), r.data(), 128);
      guard(false);
      most = std::max(most, engine.sounding());
    }
    QCOMPARE(most, 64);
    QCOMPARE(allocations.load() + locks.load() + systemCalls.load(), 0);
  }

  void longSoundsAreReadAheadOfThem() {
    // Two sounds of seven minutes that lie in files, struck at eight places and let go of by
    // everything else that is read meanwhile.
    QTemporaryDir folder;
    setLongSampleFolder(folder.path().toStdString());
    const std::size_t count = 7 * 60 * 48'000;
    Project p;
    p.tempo = Bpm(120);
    std::vector<Id> keys;
    for (int s = 0; s < 2; ++s) {
      Samples samples(count);
      for (std::size_t i = 0; i < count; ++i)
        samples[i] = (i + std::size_t(s)) / 100 % 2 ? 0.25f : -0.25f;
      Source source = test::sourceOf(test::makeSound(std::move(samples)));
      for (int c = 0; c < 4; ++c) {
        const std::int64_t from = std::int64_t(c * 90 + 20) * 48'000;
        source.cuts.push_back({Id(100 + c), Frames(from), Frames(from + 60 * 48'000)});
      }
      Id id = 0;
      p = withSource(std::move(p), std::move(source), &id);
      for (int c = 0; c < 4; ++c) {
        Id key = 0;
        p = withKeySound(std::move(p), Row::Body, s * 4 + c, 0, {id, Id(100 + c)}, "k", &key);
        p = withKeyChanged(std::move(p), key, [&](Key& k) { k.tune = Semitones(c == 3 ? 7 : 0); });
        keys.push_back(key);
      }
    }
    QVERIFY(longSamplesInFiles() >= 2 * count * sizeof(float));
    Prefetcher prefetcher;
    Engine engine(&prefetcher);
    engine.setScore(std::make_shared<Score>(compilePattern(p, 0)));
    Samples l(128), r(128);
    const Samples others(100'000'000); // 400 MB, for which all that is not kept has to make room
    std::atomic<bool> reads{true};
    std::thread reader([&] { // as a waveform's painter or a listener does
      float sum = 0;
      while (reads)
        for (std::size_t i = 0; i < others.size() && reads; i += 512) sum += others[i];
      QVERIFY(sum < 1e9f);
    });
    QTest::qSleep(400); // the beginnings are read
    std::array<float, 8> loudest{};
    allocations = locks = systemCalls = 0;
    faults = 0;
    int quiet = 0;
    const auto play = [&](int blocks, float& peak) {
      for (int block = 0; block < blocks; ++block) {
        guard(true);
        engine.process(l.data(), r.data(), 128);
        guard(false);
        peak = std::max(peak, peakOf(l));
        quiet += peakOf(l) < 0.2f ? 1 : 0;
        std::this_thread::sleep_for(std::chrono::microseconds(2000)); // a little faster than real
      }
    };
    float first = 0;
    play(4, first); // the engine takes its score, and touches what is its own
    faults = 0;
    quiet = 0;
    for (int k : {0, 5, 2, 7, 1, 4, 3, 6}) {
      engine.send({Engine::Command::Kind::Silence});
      Engine::Command strike{Engine::Command::Kind::Strike};
      strike.key = keys[std::size_t(k)];
      strike.velocity = 1;
      engine.send(strike);
      play(300, loudest[std::size_t(k)]); // past what was kept of its beginning
    }
    reads = false;
    reader.join();
    for (float peak : loudest) QVERIFY(peak > 0.2f);
    QVERIFY2(quiet < 30, qPrintable(QString::number(quiet))); // between two of them
    QCOMPARE(faults, 0L);
    QCOMPARE(allocations.load() + locks.load() + systemCalls.load(), 0);
    setLongSampleFolder({});
  }
};

QTEST_APPLESS_MAIN(TestRealtime)
#include "tst_realtime.moc"
