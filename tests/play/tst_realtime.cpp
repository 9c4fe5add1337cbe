// The audio thread never allocates, locks or calls the system: all three are trapped while
// process() runs.
#include "formats/shipped.h"
#include "play/engine.h"
#include "support.h"
#include "support/filtered_keys.h"

#include <QtTest>
#include <dlfcn.h>
#include <linux/prctl.h>
#include <pthread.h>
#include <signal.h>
#include <sys/prctl.h>
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

void guard(bool on) {
  guarded = on;
  dispatch = on && dispatches ? SYSCALL_DISPATCH_FILTER_BLOCK : SYSCALL_DISPATCH_FILTER_ALLOW;
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
    if (!dispatches) qWarning("this kernel cannot trap system calls: that part is not tested");
  }

  void theTrapsWork() {
    std::mutex mutex;
    allocations = locks = systemCalls = 0;
    guard(true);
    auto* volatile p = new std::vector<int>(100);
    delete p;
    mutex.lock();
    mutex.unlock();
    (void)::getppid();
    guard(false);
    QCOMPARE(systemCalls.load() > 0, dispatches);
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
        engine.setScore(std::make_shared<Score>(
            block % 100 == 7 ? compilePattern(demo, demo.patterns[1]->id, options)
                             : compileSong(demo, options)));
      }
      if (block % 3 == 0) {
        Engine::Command strike{Engine::Command::Kind::Strike};
        strike.key = demo.keys[random.next() % demo.keys.size()].id;
        engine.send(strike);
      }
      if (block % 211 == 0) {
        Engine::Command seek{Engine::Command::Kind::Seek};
        seek.frame = std::int64_t(random.next() % 2000000);
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
      engine.process(l.data(), r.data(), 1 + int(random.next() % 256), 1000 + block, comesIn,
                     comesIn);
      guard(false);
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
};

QTEST_APPLESS_MAIN(TestRealtime)
#include "tst_realtime.moc"
