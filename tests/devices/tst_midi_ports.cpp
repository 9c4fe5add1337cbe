// Controllers: the simulated one, and real JACK MIDI ports over a jackd that is started here.
#include "devices/jack_ready.h"
#include "devices/midi_hub.h"
#include "patience.h"
#include "play/score.h"
#include "support.h"

#include <QProcess>
#include <QtTest>
#include <jack/jack.h>
#include <jack/midiport.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// A program of someone else's with a MIDI port that sends and one that receives.
class Pads {
public:
  explicit Pads(const char* name) {
    m_client = jack_client_open(name, JackNoStartServer, nullptr);
    if (!m_client) return;
    m_out = jack_port_register(m_client, "out", JACK_DEFAULT_MIDI_TYPE, JackPortIsOutput, 0);
    m_in = jack_port_register(m_client, "in", JACK_DEFAULT_MIDI_TYPE, JackPortIsInput, 0);
    jack_set_process_callback(m_client, &Pads::process, this);
    jack_activate(m_client);
  }
  ~Pads() {
    if (m_client) jack_client_close(m_client);
  }
  Pads(const Pads&) = delete;
  Pads& operator=(const Pads&) = delete;
  [[nodiscard]] bool works() const { return m_client; }
  bool send(std::array<std::uint8_t, 3> bytes) { return m_toSend.push(bytes); }

  std::atomic<int> clocks{0}, starts{0}, stops{0};
  std::atomic<std::int64_t> firstClock{-1}, lastClock{-1}; ///< frames of the server

private:
  static int process(jack_nframes_t frames, void* self) {
    auto& pads = *static_cast<Pads*>(self);
    void* out = jack_port_get_buffer(pads.m_out, frames);
    jack_midi_clear_buffer(out);
    std::array<std::uint8_t, 3> bytes{};
    jack_nframes_t at = 0;
    while (at < frames && pads.m_toSend.pop(bytes)) {
      const std::size_t length = (bytes[0] & 0xf0) == 0xc0 || (bytes[0] & 0xf0) == 0xd0 ? 2 : 3;
      jack_midi_event_write(out, at++, bytes.data(), length);
    }
    void* in = jack_port_get_buffer(pads.m_in, frames);
    for (std::uint32_t i = 0; i < jack_midi_get_event_count(in); ++i) {
      jack_midi_event_t event{};
      jack_midi_event_get(&event, in, i);
      if (event.size != 1) continue;
      if (event.buffer[0] == 0xfa) ++pads.starts;
      if (event.buffer[0] == 0xfc) ++pads.stops;
      if (event.buffer[0] != 0xf8) continue;
      const auto now = std::int64_t(jack_last_frame_time(pads.m_client)) + event.time;
      if (++pads.clocks == 1) pads.firstClock = now;
      pads.lastClock = now;
    }
    return 0;
  }
  jack_client_t* m_client = nullptr;
  jack_port_t *m_out = nullptr, *m_in = nullptr;
  SpscQueue<std::array<std::uint8_t, 3>, 16384> m_toSend;
};

/// A held tone on the key that note 36 strikes.
struct Instrument {
  Project project;
  Id key = 0;
  LiveMap map;
  Instrument() {
    Id source = 0;
    project.tempo = Bpm(120);
    project = withSource(std::move(project), sourceOf(makeSound(sine(220, 20, 48000))), &source);
    project = withKeySound(std::move(project), Row::Body, 0, 0, {source, 0}, "tone", &key);
    project = withKeyChanged(std::move(project), key, [](Key& k) {
      k.gate = true;
      k.envelope.release = Milliseconds(2);
    });
    Pattern pattern;
    pattern.bars = 1;
    project = withPattern(std::move(project), pattern);
    map.notes[36].key = key;
    map.notes[40].key = key;
    map.notes[40].tune = 2;
  }
};

/// Takes what the engine reports and hands on what was struck.
template <class Take> void forEachStruck(Engine& engine, Take take) {
  Engine::Report report{};
  while (engine.nextReport(report))
    if (report.kind == Engine::Report::Kind::Struck) take(report);
}

/// Asks an engine for blocks as a device does.
class Asked {
public:
  explicit Asked(Engine& engine)
      : m_engine(engine), m_thread([this] {
          Samples left(128), right(128);
          auto due = std::chrono::steady_clock::now();
          while (!m_ending) {
            const auto now = std::chrono::steady_clock::now().time_since_epoch();
            m_engine.process(left.data(), right.data(), 128,
                             Nanoseconds(now / std::chrono::nanoseconds(1)));
            if (m_engine.playing()) m_played += 128;
            due += std::chrono::microseconds(2667);
            std::this_thread::sleep_until(due);
          }
        }) {}
  ~Asked() {
    m_ending = true;
    m_thread.join();
  }
  Asked(const Asked&) = delete;
  Asked& operator=(const Asked&) = delete;

  /// Frames asked for while it played.
  [[nodiscard]] std::int64_t played() const { return m_played; }

private:
  Engine& m_engine;
  std::atomic<std::int64_t> m_played{0};
  std::atomic<bool> m_ending{false};
  std::thread m_thread;
};

std::unique_ptr<Engine> engineOf(const Instrument& instrument) {
  auto engine = std::make_unique<Engine>();
  engine->setScore(std::make_shared<Score>(
      compilePattern(instrument.project, instrument.project.patterns[0]->id)));
  return engine;
}

/// The instrument under the simulated controller.
struct Rig {
  explicit Rig(double rollBeats = 0) {
    instrument.map.notes[36].roll.beats = rollBeats;
    engine = engineOf(instrument);
    hub = std::make_unique<MidiHub>(*engine);
    (void)hub->watch();
    hub->setMap(MidiHub::simulatedName(), instrument.map);
  }
  Instrument instrument;
  std::unique_ptr<Engine> engine;
  std::unique_ptr<MidiHub> hub;
};

} // namespace

class TestMidiPorts : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;

private slots:
  void initTestCase() {
    qputenv("XDG_RUNTIME_DIR", m_dir.path().toUtf8());
    qputenv("JACK_DEFAULT_SERVER", "tuvvo-midi-none");
    qputenv("JACK_NO_START_SERVER", "1");
  }

  void theSimulatedControllerPlaysTheDeck() {
    Rig rig;
    auto& engine = rig.engine;
    MidiHub& hub = *rig.hub;
    QCOMPARE(hub.inputs().front().open, true);
    Asked asked(*engine);
    hub.simulated().send({MidiKind::NoteOn, 9, 36, 127});
    EVENTUALLY_IS(engine->sounding(), 1);
    hub.simulated().send({MidiKind::NoteOn, 9, 40, 64});
    EVENTUALLY_IS(engine->sounding(), 2);
    hub.simulated().send({MidiKind::NoteOn, 9, 50, 64}); // strikes nothing
    hub.simulated().send({MidiKind::NoteOff, 9, 36, 0});
    EVENTUALLY_IS(engine->sounding(), 1);
    hub.simulated().send({MidiKind::NoteOff, 9, 40, 0});
    EVENTUALLY_IS(engine->sounding(), 0);
    const auto came = hub.take();
    QCOMPARE(came.size(), 5u);
    QVERIFY(came[1].message == (MidiMessage{MidiKind::NoteOn, 9, 40, 64}));
    Engine::Report report{};
    QVERIFY(engine->nextReport(report));
    QVERIFY(report.kind == Engine::Report::Kind::Struck && report.key == rig.instrument.key);
    QCOMPARE(report.velocity, 1.0f);
  }

  // Struck 10 ms apart, reported so, whatever the blocks were.
  void whenItWasPlayedIsKept() {
    Rig rig;
    auto& engine = rig.engine;
    MidiHub& hub = *rig.hub;
    Asked asked(*engine);
    std::vector<TimedMidi> what;
    for (int i = 0; i < 20; ++i) {
      what.push_back({0.05 + i * 0.02, {MidiKind::NoteOn, 0, 36, 100}});
      what.push_back({0.06 + i * 0.02, {MidiKind::NoteOff, 0, 36, 0}});
    }
    hub.simulated().play(what);
    std::vector<std::int64_t> struck;
    const auto count = [&] {
      forEachStruck(*engine, [&](const auto& report) { struck.push_back(report.when.value); });
      return struck.size();
    };
    EVENTUALLY_IS(count(), 20u);
    for (std::size_t i = 1; i < struck.size(); ++i)
      QVERIFY(std::abs(double(struck[i] - struck[i - 1]) - 20e6) < 1000); // ns
  }

  void thePlayerIsAsLooseAsItIsTold() {
    for (double loose : {0.0, 5.0, 20.0}) {
      SimulatedController::Player player;
      player.bpm = 100;
      player.bars = 16;
      player.looseMs = loose;
      player.lateMs = loose / 2;
      player.leadInS = 1;
      const auto notes = SimulatedController::played(player);
      QVERIFY(notes.size() > 300);
      double sum = 0, square = 0;
      int count = 0;
      for (const auto& timed : notes) {
        if (timed.message.kind != MidiKind::NoteOn || timed.message.number == 42) continue;
        const double sixteenths = (timed.atS - 1) / 0.15,
                     off = (sixteenths - std::round(sixteenths)) * 150;
        sum += off;
        square += off * off;
        ++count;
      }
      const double mean = sum / count, spread = std::sqrt(square / count - mean * mean);
      QVERIFY2(std::abs(mean - loose / 2) < 0.2 + loose / 6, qPrintable(QString::number(mean)));
      QVERIFY2(std::abs(spread - loose) < 0.1 + loose / 4, qPrintable(QString::number(spread)));
      const auto again = SimulatedController::played(player);
      QVERIFY(std::equal(notes.begin(), notes.end(), again.begin(), again.end(),
                         [](const TimedMidi& a, const TimedMidi& b) {
                           return a.atS == b.atS && a.message == b.message;
                         }));
    }
  }

  void aftertouchIsTheLevelOfTheRoll() {
    Rig rig(1 / 16.0);
    auto& engine = rig.engine;
    MidiHub& hub = *rig.hub;
    Asked asked(*engine);
    std::vector<float> velocities;
    const auto count = [&] {
      forEachStruck(*engine, [&](const auto& report) { velocities.push_back(report.velocity); });
      return velocities.size();
    };
    hub.simulated().send({MidiKind::NoteOn, 0, 36, 127});
    EVENTUALLY(count() >= 3);
    QCOMPARE(velocities, std::vector<float>(velocities.size(), 1.0f));
    hub.simulated().send({MidiKind::ChannelPressure, 0, 0, 1});
    EVENTUALLY(count() > 0 && velocities.back() != 1.0f);
    const std::size_t softer = velocities.size();
    EVENTUALLY(count() > softer);
    QVERIFY(std::abs(velocities.back() - 0.1f) < 1e-6f);
    hub.simulated().send({MidiKind::NoteOff, 0, 36, 0});
  }

  // Ten thousand messages at once, with nobody to take them; then nothing hangs.
  void aFloodHangsNothing() {
    Rig rig;
    auto& engine = rig.engine;
    MidiHub& hub = *rig.hub;
    for (int i = 0; i < 10'000; ++i)
      hub.simulated().send({i % 2 ? MidiKind::NoteOff : MidiKind::NoteOn, 0, 36, 100});
    hub.simulated().send({MidiKind::NoteOn, 0, 36, 100}); // its end is lost
    QVERIFY(hub.inputs().front().lost > 0);
    Samples left(128), right(128);
    for (int i = 0; i < 50; ++i) engine->process(left.data(), right.data(), 128);
    hub.simulated().send({MidiKind::NoteOn, 0, 40, 100});
    hub.simulated().send({MidiKind::NoteOff, 0, 40, 0});
    for (int i = 0; i < 50; ++i) engine->process(left.data(), right.data(), 128);
    QCOMPARE(engine->sounding(), 0);
    QVERIFY(hub.take().size() <= 512);
  }

  void whatIsUnpluggedLetsGo() {
    Rig rig;
    auto& engine = rig.engine;
    MidiHub& hub = *rig.hub;
    Asked asked(*engine);
    hub.simulated().send({MidiKind::NoteOn, 0, 36, 100});
    EVENTUALLY_IS(engine->sounding(), 1);
    hub.setWanted(MidiHub::simulatedName(), false);
    EVENTUALLY_IS(engine->sounding(), 0);
    hub.simulated().send({MidiKind::NoteOn, 0, 36, 100}); // not heard
    hub.setWanted(MidiHub::simulatedName(), true);        // and again, with its map
    hub.simulated().send({MidiKind::NoteOn, 0, 36, 100});
    EVENTUALLY_IS(engine->sounding(), 1);
    int struck = 0;
    forEachStruck(*engine, [&](const auto&) { ++struck; });
    QCOMPARE(struck, 2); // the first and the last
  }

  void withoutASystemThereIsNone() {
    MidiPorts none(MidiSystem::Jack); // no such server
    QVERIFY(!none.works());
    QVERIFY(none.inputs().empty() && none.outputs().empty());
    QVERIFY(!none.openInput("pads", {}).ok());
    QVERIFY(!none.openOutput("pads").ok());
  }

  // ---- JACK, for real ----

  void jackControllersPlayAndKeepTime() {
    // Always the same name: a server that is killed keeps its place among the eight there may be on
    // a machine, until one of its name ends as it should.
    const QByteArray name = "tuvvo-midi-test";
    qputenv("JACK_DEFAULT_SERVER", name);
    QProcess server;
    server.setProcessChannelMode(QProcess::MergedChannels);
    server.start("jackd", {"-n", name, "--no-realtime", "-S", "-d", "dummy", "-r", "48000", "-p",
                           "256", "-C", "2", "-P", "2"});
    QVERIFY(server.waitForStarted(5000));
    QVERIFY(jackAnswers());
    const Instrument instrument;
    const auto engine = engineOf(instrument);
    {
      MidiHub hub(*engine);
      Asked asked(*engine);
      (void)hub.watch();
      auto pads = std::make_unique<Pads>("quaypads");
      QVERIFY(pads->works());
      const std::string said = hub.watch(); // plugged in while it runs
      QVERIFY2(said.find("plugged in") != std::string::npos, said.c_str());
      MidiPortName port;
      for (const auto& input : hub.inputs())
        if (input.port.system == MidiSystem::Jack && input.open) port = input.port;
      QVERIFY(port.name.find("quaypads") != std::string::npos);
      hub.setMap(port, instrument.map);
      // JACK connects in its own time: what is struck before is lost.
      bool sounds = false;
      for (int attempt = 0; attempt < 20 && !sounds; ++attempt) {
        QVERIFY(pads->send({0x90, 36, 100}));
        sounds = QTest::qWaitFor([&] { return engine->sounding() > 0; }, 500);
      }
      QVERIFY(sounds);
      QVERIFY(pads->send({0x80, 36, 0}));
      EVENTUALLY_IS(engine->sounding(), 0);
      // Nonsense and a flood: ten thousand in a second. (RtMidi takes what follows the beginning of
      // an exclusive message for the rest of it, so that one is left out.)
      for (int i = 0; i < 10'000; ++i)
        pads->send({std::uint8_t(0x80 + i * 37 % 0x70), std::uint8_t(i & 0x7f),
                    std::uint8_t(i * 7 & 0x7f)});
      // What is let go while the flood still comes is struck again: until nothing sounds.
      bool silent = false;
      for (int attempt = 0; attempt < 20 && !silent; ++attempt) {
        for (int channel = 0; channel < 16; ++channel)
          for (int note : {36, 40})
            (void)pads->send({std::uint8_t(0x80 | channel), std::uint8_t(note), 0});
        silent = QTest::qWaitFor([&] { return engine->sounding() == 0; }, 500);
      }
      QVERIFY(silent);

      // Clock out: at 120 beats a minute a pulse every thousand frames of what was played. (The
      // server's clock may stand still on a busy machine, so its seconds are told, not judged; and
      // a thread that gets no time leaves pulses out, so it is measured again.)
      MidiPortName out;
      for (const auto& each : hub.outputs())
        if (each.name.find("quaypads") != std::string::npos) out = each;
      QVERIFY(hub.sendClockTo(out).ok());
      QTest::qWait(100);
      QCOMPARE(pads->clocks.load(), 0);
      bool right = false;
      for (int attempt = 1; attempt <= 5 && !right; ++attempt) {
        const int clocks = pads->clocks;
        const std::int64_t played = asked.played();
        engine->send({Engine::Command::Kind::Play});
        EVENTUALLY(asked.played() - played > 105'000);
        engine->send({Engine::Command::Kind::Stop});
        EVENTUALLY_IS(pads->stops.load(), attempt);
        QCOMPARE(pads->starts.load(), attempt);
        right = std::abs(pads->clocks - clocks - double(asked.played() - played) / 1000) <= 2;
      }
      const double seconds = double(pads->lastClock - pads->firstClock) / 48000;
      const double bpm = 60.0 / 24 * (pads->clocks - 1) / seconds;
      qInfo("clock out over JACK: %d pulses in %.3f s, %.2f BPM for 120", pads->clocks.load(),
            seconds, bpm);
      QVERIFY(asked.played() > 48000);
      QVERIFY(right);

      // Unplugged while a key is held.
      QVERIFY(pads->send({0x90, 36, 100}));
      EVENTUALLY_IS(engine->sounding(), 1);
      pads.reset();
      QVERIFY(hub.watch().find("unplugged") != std::string::npos);
      EVENTUALLY_IS(engine->sounding(), 0);

      // The server is killed: the hub goes on, and the simulated controller still plays.
      pads = std::make_unique<Pads>("quaypads");
      (void)hub.watch();
      pads.reset();
      server.kill();
      server.waitForFinished(5000);
      QTest::qWait(200);
      for (int i = 0; i < 12; ++i) (void)hub.watch();
      hub.setMap(MidiHub::simulatedName(), instrument.map);
      hub.simulated().send({MidiKind::NoteOn, 0, 36, 100});
      EVENTUALLY_IS(engine->sounding(), 1);
    }
    server.start();
    QVERIFY(server.waitForStarted(5000));
    QVERIFY(jackAnswers());
    server.terminate();
    QVERIFY(server.waitForFinished(5000));
  }
};

QTEST_GUILESS_MAIN(TestMidiPorts)
#include "tst_midi_ports.moc"
