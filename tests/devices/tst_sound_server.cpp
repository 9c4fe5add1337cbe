// Real sound servers, started here: jackd with its dummy driver, PulseAudio with a null sink. What
// comes out of them is recorded by the servers' own tools and compared with what the engine
// printed.
#include "audio/decode.h"
#include "devices/jack_ready.h"
#include "devices/live_sound.h"
#include "formats/shipped.h"
#include "patience.h"
#include "play/print.h"
#include "support.h"

#include <QProcess>
#include <QStandardPaths>
#include <QtTest>
#include <jack/jack.h>
#include <signal.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// The largest normalised correlation of a stretch of what was played with what was recorded.
double correlation(std::span<const float> played, std::span<const float> recorded) {
  const std::size_t window = played.size();
  double best = 0;
  for (std::size_t at = 0; at + window < recorded.size(); ++at) {
    double xy = 0, yy = 1e-12;
    for (std::size_t i = 0; i < window; i += 40) { // coarse first
      xy += double(played[i]) * double(recorded[at + i]);
      yy += double(recorded[at + i]) * double(recorded[at + i]);
    }
    if (yy < 1e-4) continue;
    double xx = 1e-12;
    for (std::size_t i = 0; i < window; i += 40) xx += double(played[i]) * double(played[i]);
    if (xy / std::sqrt(xx * yy) < 0.6) continue;
    xy = 0, yy = 1e-12, xx = 1e-12;
    for (std::size_t i = 0; i < window; ++i) {
      xy += double(played[i]) * double(recorded[at + i]);
      yy += double(recorded[at + i]) * double(recorded[at + i]);
      xx += double(played[i]) * double(played[i]);
    }
    best = std::max(best, xy / std::sqrt(xx * yy));
  }
  return best;
}

/// The share of stretches of 0.1 s of what was played that are found in the recording. A busy
/// machine leaves gaps in it, which spoil the stretches around them and no others.
double shareFound(std::span<const float> played, std::span<const float> recorded) {
  constexpr std::size_t window = 4800;
  int found = 0, all = 0;
  for (std::size_t at = 0; at + window <= played.size(); at += 2 * window) {
    const auto stretch = played.subspan(at, window);
    if (peakOf(stretch) < 0.05f) continue; // silence is like anything
    ++all;
    found += correlation(stretch, recorded) > 0.99;
  }
  return all ? double(found) / all : 0;
}

/// A program of its own on the JACK server, through JACK's C interface: it records what it gets.
class JackTape {
public:
  explicit JackTape(std::size_t frames) : m_tape{Samples(frames), Samples(frames)} {
    m_client = jack_client_open("tape", JackNoStartServer, nullptr);
    if (!m_client) return;
    for (std::size_t c = 0; c < 2; ++c)
      m_ports[c] = jack_port_register(m_client, c ? "right" : "left", JACK_DEFAULT_AUDIO_TYPE,
                                      JackPortIsInput, 0);
    jack_set_process_callback(m_client, &JackTape::process, this);
    jack_activate(m_client);
  }
  ~JackTape() {
    if (m_client) jack_client_close(m_client);
  }
  JackTape(const JackTape&) = delete;
  JackTape& operator=(const JackTape&) = delete;

  /// Plugs the tape into every output port of the client. @returns how many there were
  int plugInto(const char* client) {
    if (!m_client) return 0;
    const char** names =
        jack_get_ports(m_client, client, JACK_DEFAULT_AUDIO_TYPE, JackPortIsOutput);
    int plugged = 0;
    for (; names && names[plugged] && plugged < 2; ++plugged)
      jack_connect(m_client, names[plugged], jack_port_name(m_ports[std::size_t(plugged)]));
    jack_free(names);
    return plugged;
  }
  [[nodiscard]] bool full() const { return m_at.load() >= m_tape[0].size(); }
  [[nodiscard]] std::span<const float> channel(std::size_t c) const { return m_tape[c]; }

private:
  static int process(jack_nframes_t frames, void* self) {
    auto& tape = *static_cast<JackTape*>(self);
    const std::size_t at = tape.m_at.load();
    const std::size_t n = std::min<std::size_t>(frames, tape.m_tape[0].size() - at);
    for (std::size_t c = 0; c < 2; ++c) {
      const auto* in = static_cast<const float*>(jack_port_get_buffer(tape.m_ports[c], frames));
      std::copy(in, in + n, tape.m_tape[c].begin() + std::ptrdiff_t(at));
    }
    tape.m_at.store(at + n);
    return 0;
  }

  jack_client_t* m_client = nullptr;
  jack_port_t* m_ports[2] = {};
  std::array<Samples, 2> m_tape;
  std::atomic<std::size_t> m_at{0};
};

/// Long enough that a busy machine leaves no gaps: what is proven here is that the sound is right.
SoundChoice unhurried(OutputChoice server) {
  SoundChoice choice{server};
  choice.blockFrames = 2048;
  return choice;
}

} // namespace

class TestSoundServer : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;
  Project m_project;
  SoundPtr m_printed;

  QProcess* start(const QString& program, const QStringList& arguments) {
    auto* process = new QProcess(this);
    process->setProcessChannelMode(QProcess::MergedChannels);
    process->start(program, arguments);
    process->waitForStarted(5000);
    return process;
  }

private slots:
  void initTestCase() {
    qputenv("XDG_RUNTIME_DIR", m_dir.path().toUtf8());
    JobContext job;
    m_project = *shippedDemo(TUVVO_DATA_DIR, job);
    m_project.sections = {m_project.sections[1]};
    m_project.sections[0].bars = 1;
    m_printed = *print(compileSong(m_project), {}, job);
  }

  void pulseAudioReallyPlays() {
    QVERIFY2(!QStandardPaths::findExecutable("pulseaudio").isEmpty(),
             "pulseaudio is in packages-test.txt and must be here");
    const QString socket = m_dir.path() + "/pulse-socket";
    qputenv("PULSE_SERVER", ("unix:" + socket).toUtf8());
    auto* server =
        start("pulseaudio",
              {"-n", "--daemonize=no", "--exit-idle-time=-1", "--use-pid-file=no",
               "--disable-shm=yes", "-L", "module-null-sink sink_name=quay rate=48000 channels=2",
               "-L", "module-native-protocol-unix auth-anonymous=1 socket=" + socket});
    EVENTUALLY(QFile::exists(socket));
    const QString wav = m_dir.path() + "/pulse.wav";
    auto* recorder = start("parec", {"-d", "quay.monitor", "--rate=48000", "--channels=2",
                                     "--format=float32le", "--file-format=wav", wav});
    EVENTUALLY(QFileInfo(wav).size() > 4096); // it records
    Engine engine;
    engine.setScore(std::make_shared<Score>(compileSong(m_project)));
    LiveSound output(engine);
    const std::string said = output.open(unhurried(OutputChoice::Pulse));
    QVERIFY2(said.empty(), said.c_str());
    QVERIFY(!output.device()->simulated());
    engine.send({Engine::Command::Kind::Play});
    const qint64 before = QFileInfo(wav).size(), frame = 2 * sizeof(float);
    EVENTUALLY(engine.position().value >= m_printed->frames().value - 4800);
    // What has been played is on its way through the server.
    EVENTUALLY(QFileInfo(wav).size() >= before + m_printed->frames().value * frame);
    ::kill(pid_t(recorder->processId()), SIGINT);
    recorder->waitForFinished(5000);
    JobContext job;
    const auto recorded = decodeFile(wav.toStdString(), job);
    QVERIFY2(recorded.ok(), recorded.ok() ? "" : recorded.error().text().c_str());
    const double found = shareFound(m_printed->channel(0), recorded->sound->channel(0));
    qInfo("PulseAudio: %.0f %% of the print was found in what was recorded", 100 * found);
    QVERIFY(found > 0.5);

    // The server is killed while it plays: the simulated output takes over, the song keeps its
    // place.
    engine.send({Engine::Command::Kind::Play});
    EVENTUALLY(engine.position().value > 1000 && engine.playing());
    server->kill();
    server->waitForFinished(5000);
    std::string gone;
    for (int i = 0; i < 200 && gone.empty(); ++i) {
      QTest::qWait(50);
      gone = output.watch();
    }
    QVERIFY(QString::fromStdString(gone).contains("has gone"));
    const auto place = engine.position();
    QVERIFY(place.value > 0);
    EVENTUALLY(engine.position() > place || !engine.playing());
    qunsetenv("PULSE_SERVER");
  }

  void jackReallyPlays() {
    QVERIFY2(!QStandardPaths::findExecutable("jackd").isEmpty(),
             "jackd2 is in packages-test.txt and must be here");
    const QByteArray name = "tuvvo-test-" + QByteArray::number(QCoreApplication::applicationPid());
    qputenv("JACK_DEFAULT_SERVER", name);
    qputenv("JACK_NO_START_SERVER", "1");
    // Synchronous: a cycle waits for its clients, so that a busy machine delays and loses nothing.
    auto* server = start("jackd", {"-n", name, "--no-realtime", "-S", "-d", "dummy", "-r", "48000",
                                   "-p", "1024", "-C", "2", "-P", "2"});
    QVERIFY(jackAnswers());
    QCOMPARE(server->state(), QProcess::Running);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compileSong(m_project)));
    LiveSound output(engine);
    const std::string said = output.open({OutputChoice::Jack});
    QVERIFY2(said.empty(), said.c_str());
    QVERIFY(!output.device()->simulated());
    QCOMPARE(output.device()->rate().value, 48000.0);
    {
      JackTape tape(std::size_t(m_printed->frames().value) + 24000);
      QCOMPARE(tape.plugInto("^Tuvvo:"), 2);
      engine.send({Engine::Command::Kind::Play});
      EVENTUALLY(tape.full());
      for (std::size_t c : {0u, 1u}) {
        const double alike =
            correlation(m_printed->channel(c).subspan(24000, 9600), tape.channel(c));
        qInfo("JACK: correlation of what was recorded with the print, channel %d: %.6f", int(c),
              alike);
        QVERIFY(alike > 0.9999);
      }
    }
    output.close();
    server->terminate();
    server->waitForFinished(5000);
    qunsetenv("JACK_DEFAULT_SERVER");
  }
};

QTEST_GUILESS_MAIN(TestSoundServer)
#include "tst_sound_server.moc"
