#include "live_bench.h"

#include "model/edits.h"
#include "session/services.h"
#include "shell/main_window.h"

#include <QApplication>
#include <QKeyEvent>
#include <QProcess>
#include <QTemporaryDir>
#include <chrono>
#include <cstdio>
#include <jack/jack.h>
#include <pthread.h>
#include <random>
#include <sched.h>
#include <thread>

namespace tuvvo {

namespace {

using Clock = std::chrono::steady_clock;

void breathe(int ms) {
  const auto until = Clock::now() + std::chrono::milliseconds(ms);
  while (Clock::now() < until) QCoreApplication::processEvents(QEventLoop::AllEvents, 2);
}

double percentile(std::vector<double> values, double share) {
  std::sort(values.begin(), values.end());
  return values[std::size_t(share * double(values.size() - 1))];
}

/// A device of 128 frames that notes when it was handed a block that is no longer silent.
class ListeningDevice {
public:
  explicit ListeningDevice(Engine& engine)
      : m_device(settings(), [this, &engine](const SoundBlock& block) {
          const auto now = Clock::now().time_since_epoch() / std::chrono::nanoseconds(1);
          engine.process(block.left, block.right, block.frames, Nanoseconds(now));
          bool silent = true;
          for (int i = 0; i < block.frames; ++i) silent = silent && block.left[i] == 0;
          if (!silent && m_waits.exchange(false)) m_heard = Clock::now().time_since_epoch().count();
          m_silent = silent;
        }) {}

  void wait() {
    m_heard = 0;
    m_waits = true;
  }
  [[nodiscard]] std::int64_t heard() const { return m_heard; }
  [[nodiscard]] bool silent() const { return m_silent; }

private:
  static DeviceSettings settings() {
    DeviceSettings out;
    out.blockFrames = 128;
    return out;
  }
  std::atomic<bool> m_waits{false}, m_silent{true};
  std::atomic<std::int64_t> m_heard{0};
  SimulatedDevice m_device; // last: its thread uses the others
};

std::vector<double> answers(Services& services, const std::function<void()>& strike,
                            const std::function<void()>& release, int count) {
  std::vector<double> ms;
  ListeningDevice device(services.player.engine());
  std::mt19937 random(5);
  for (int i = 0; i < count; ++i) {
    services.player.engine().send(Engine::Command{Engine::Command::Kind::Silence});
    for (int tries = 0; tries < 200; ++tries) {
      breathe(5);
      if (device.silent() && services.player.engine().sounding() == 0) break;
    }
    breathe(int(random() % 7)); // anywhere in a block
    device.wait();
    const auto start = Clock::now().time_since_epoch().count();
    strike();
    for (int tries = 0; tries < 200 && device.heard() == 0; ++tries) breathe(1);
    if (device.heard() != 0) ms.push_back(double(device.heard() - start) * 1e-6);
    release();
  }
  return ms;
}

/// The demo in a window, with a data folder of its own.
struct Bench {
  QTemporaryDir home;
  std::unique_ptr<Services> services;
  std::unique_ptr<MainWindow> window;
  Bench() {
    qputenv("XDG_DATA_HOME", home.path().toUtf8());
    services = std::make_unique<Services>();
    window = std::make_unique<MainWindow>(*services);
    services->files.startDemo();
    window->showStage(Stage::Keys);
    window->show();
    window->activateWindow();
    breathe(800);
    services->player.waitForBakes();
  }
  ~Bench() {
    window.reset();
    services.reset();
  }
};

/// Plain arithmetic on a thread of its own, as high as the sound's, once a block: when that takes
/// longer than a block, it was the machine.
class Control {
public:
  Control() : m_thread([this] { run(); }) {
    sched_param high{};
    high.sched_priority = 5; // as JACK's clients
    pthread_setschedparam(m_thread.native_handle(), SCHED_FIFO, &high);
  }
  ~Control() {
    m_ending = true;
    m_thread.join();
  }
  Control(const Control&) = delete;
  Control& operator=(const Control&) = delete;
  [[nodiscard]] int stalls() const { return m_stalls; }

private:
  void run() {
    const auto block = std::chrono::microseconds(2667);
    volatile double sink = 0;
    auto due = Clock::now();
    while (!m_ending) {
      due += block;
      std::this_thread::sleep_until(due);
      const auto woke = Clock::now();
      double x = 1;
      for (int i = 0; i < 20'000; ++i) x = x * 0.999999 + 1e-7;
      sink = sink + x;
      if (Clock::now() - woke > block || woke - due > block) ++m_stalls;
      if (Clock::now() > due + 10 * block) due = Clock::now();
    }
  }

  std::atomic<bool> m_ending{false};
  std::atomic<int> m_stalls{0};
  std::thread m_thread;
};

/// A client that counts what the server says went wrong.
class XrunCounter {
public:
  XrunCounter() : m_client(jack_client_open("watch", JackNoStartServer, nullptr)) {
    if (!m_client) return;
    jack_set_xrun_callback(
        m_client,
        [](void* self) {
          ++static_cast<XrunCounter*>(self)->m_count;
          return 0;
        },
        this);
    jack_activate(m_client);
  }
  ~XrunCounter() {
    if (m_client) jack_client_close(m_client);
  }
  XrunCounter(const XrunCounter&) = delete;
  XrunCounter& operator=(const XrunCounter&) = delete;
  [[nodiscard]] int count() const { return m_count; }
  [[nodiscard]] bool works() const { return m_client != nullptr; }

private:
  jack_client_t* m_client;
  std::atomic<int> m_count{0};
};

} // namespace

void benchAnswer(Report report) {
  Bench bench;
  const double block = 128 / 48.0;
  const auto key = [&](QEvent::Type type) {
    QKeyEvent event(type, Qt::Key_A, Qt::NoModifier, QStringLiteral("a"));
    QCoreApplication::sendEvent(&bench.window->view(Stage::Keys), &event);
  };
  const auto byKey = answers(
      *bench.services, [&] { key(QEvent::KeyPress); }, [&] { key(QEvent::KeyRelease); }, 300);
  auto& hub = bench.services->controllers.hub();
  for (int i = 0; i < 60 && hub.sourceOf(MidiHub::simulatedName()) < 1; ++i) breathe(50);
  SimulatedController& pads = hub.simulated();
  const auto byMidi = answers(
      *bench.services,
      [&] {
        pads.send({MidiKind::NoteOn, 9, 38, 110});
      },
      [&] {
        pads.send({MidiKind::NoteOff, 9, 38, 0});
      },
      300);
  std::printf("  (%zu of 300 keys and %zu of 300 messages answered; middles %.2f and %.2f ms)\n",
              byKey.size(), byMidi.size(), byKey.empty() ? 0 : percentile(byKey, 0.5),
              byMidi.empty() ? 0 : percentile(byMidi, 0.5));
  const auto owed = [&](const char* what, const std::vector<double>& ms) {
    const double late = ms.size() < 300 ? 1e9 : percentile(ms, 0.95);
    report(what, late, "ms", "< block + 2 = 4.67", late < block + 2);
  };
  owed("from a key to sound, 128 frames: 95th percentile", byKey);
  owed("from a MIDI message to sound: 95th percentile", byMidi);
}

void benchSoak(Report report) {
  int seconds = qEnvironmentVariableIntValue("TUVVO_SOAK_SECONDS");
  if (seconds <= 0) seconds = 600;
  QTemporaryDir runtime;
  qputenv("XDG_RUNTIME_DIR", runtime.path().toUtf8());
  qputenv("JACK_DEFAULT_SERVER", "tuvvo-bench");
  QProcess server;
  server.start("jackd", {"-n", "tuvvo-bench", "-d", "dummy", "-r", "48000", "-p", "128"});
  server.waitForStarted(5000);
  breathe(1500);
  {
    // The server by itself: what the machine makes of it.
    constexpr int idleS = 20;
    double idle = 0;
    {
      XrunCounter alone;
      if (!alone.works()) std::printf("  (the server does not answer)\n");
      breathe(idleS * 1000);
      idle = alone.count() / double(idleS);
    }
    Bench bench;
    Services& services = *bench.services;
    SoundChoice choice;
    choice.server = OutputChoice::Jack;
    choice.blockFrames = 128;
    const std::string said = services.player.liveSound().open(choice);
    if (!said.empty()) {
      std::printf("  (%s)\n", said.c_str());
      report("ten minutes at 128 frames on jackd: blocks missed", -1, "", "0", false);
      return;
    }
    XrunCounter watch;
    const int before = watch.count();
    services.transport.setPlays(Plays::Song);
    services.transport.play();
    Id source = 0;
    for (const auto& each : services.document.project().sources)
      if (!each->kit && source == 0) source = each->id;
    const auto until = Clock::now() + std::chrono::seconds(seconds);
    auto nextBake = Clock::now();
    Control control;
    double cents = 0;
    int bakes = 0, paints = 0, stallsSeen = 0, explained = 0;
    std::int64_t lateSeen = 0;
    while (Clock::now() < until) {
      if (Clock::now() > nextBake) { // another stretch of the whole source, cut by cut
        cents = cents >= 40 ? -40 : cents + 1;
        services.document.edit(
            "bench", withSourceChanged(services.document.project(), source, [&](Source& s) {
              s.shape.method = FitMethod::Stretch;
              s.shape.cents = Cents(cents);
            }));
        ++bakes;
        nextBake = Clock::now() + std::chrono::milliseconds(1500);
      }
      if (!services.player.engine().playing()) services.transport.play();
      bench.window->update();
      for (auto* widget : bench.window->findChildren<QWidget*>()) widget->update();
      ++paints;
      breathe(33);
      // A block of ours that was late while plain arithmetic stood still was the machine's.
      const std::int64_t late = services.player.liveSound().load().late;
      if (late > lateSeen && control.stalls() > stallsSeen) explained += int(late - lateSeen);
      lateSeen = late;
      stallsSeen = control.stalls();
    }
    const DeviceLoad load = services.player.liveSound().load();
    const int toldByServer = watch.count() - before;
    std::printf(
        "  (%d s, %lld blocks, %d bakes asked for, %d paints; load %.1f %%, at most %.0f %%; "
        "late by us %lld, told by the device %lld, xruns of the server %d)\n",
        seconds, static_cast<long long>(load.blocks), bakes, paints, load.mean * 100,
        load.most * 100, static_cast<long long>(load.late), static_cast<long long>(load.reported),
        toldByServer);
    std::printf(
        "  (plain arithmetic of the same priority stood still %d times; %d of our late blocks "
        "fall into that)\n",
        control.stalls(), explained);
    const double ours = double(load.late) - explained;
    report("at 128 frames on jackd's dummy driver: blocks that took us too long", ours, "", "0",
           ours <= 0);
    std::printf(
        "  (the server alone, before Tuvvo was opened: %.1f xruns a second; with it %.1f)\n", idle,
        toldByServer / double(seconds));
    // What the server counts is its own waking as well: told, not owed.
    report("the same: xruns that the server counts, a second", toldByServer / double(seconds), "",
           "-", true);
    services.player.liveSound().close();
  }
  server.terminate();
  server.waitForFinished(5000);
}

} // namespace tuvvo
