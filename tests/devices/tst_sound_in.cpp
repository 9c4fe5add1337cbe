// Recording through real sound servers, started here: the way there and back is measured, bars are
// caught to the frame, and servers are killed and changed while it goes on.
#include "catch/told.h"
#include "devices/jack_ready.h"
#include "devices/live_sound.h"
#include "devices/rate_bridge.h"
#include "patience.h"
#include "play/score.h"
#include "support.h"

#include <QProcess>
#include <QStandardPaths>
#include <QtTest>
#include <jack/jack.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// A client of the JACK server that plugs ports together.
class JackHand {
public:
  JackHand() : m_client(jack_client_open("hand", JackNoStartServer, nullptr)) {}
  ~JackHand() {
    if (m_client) jack_client_close(m_client);
  }
  JackHand(const JackHand&) = delete;
  JackHand& operator=(const JackHand&) = delete;

  /// A cable from both outputs of the program to its inputs. @returns how many were plugged
  int loop() {
    int plugged = 0;
    for (int c = 0; c < 2; ++c)
      plugged += jack_connect(m_client, ("Tuvvo:outport " + std::to_string(c)).c_str(),
                              ("Tuvvo:inport " + std::to_string(c)).c_str()) == 0;
    return plugged;
  }
  bool setBlock(int frames) { return jack_set_buffer_size(m_client, jack_nframes_t(frames)) == 0; }

private:
  jack_client_t* m_client;
};

} // namespace

class TestSoundIn : public QObject {
  Q_OBJECT
  QTemporaryDir m_dir;
  std::unique_ptr<QProcess> m_server;

  void start(const QString& program, const QStringList& arguments) {
    m_server = std::make_unique<QProcess>();
    m_server->setProcessChannelMode(QProcess::MergedChannels);
    m_server->start(program, arguments);
    QVERIFY(m_server->waitForStarted(5000));
  }
  void startJack(int block, int rate = 48000) {
    // Synchronous: a cycle waits for its clients, so that a busy machine delays and loses nothing.
    start("jackd", {"-n", "tuvvo-test-in", "--no-realtime", "-S", "-d", "dummy", "-r",
                    QString::number(rate), "-p", QString::number(block), "-C", "2", "-P", "2"});
    QVERIFY(jackAnswers());
    QCOMPARE(m_server->state(), QProcess::Running);
  }
  /// A killed server leaves its place in JACK's list of eight taken: one that is ended gives it
  /// back.
  void endJack() {
    if (m_server->state() != QProcess::Running) startJack(1024);
    m_server->terminate();
    m_server->waitForFinished(5000);
  }
  static SoundChoice jackChoice(int block) {
    SoundChoice choice{OutputChoice::Jack};
    choice.blockFrames = block;
    choice.input = InputChoice::Device;
    return choice;
  }
  /// What is said once something has happened to the device; empty after ten seconds.
  static std::string watched(LiveSound& live) {
    std::string said;
    for (int i = 0; i < 200 && said.empty(); ++i) {
      QTest::qWait(50);
      said = live.watch();
    }
    return said;
  }
  std::optional<std::int64_t> measured(Engine& engine, Catcher& catcher, Told& told) {
    told.clear();
    catcher.order(ProbeRequest{});
    catcher.finish(); // it listens
    engine.send({Engine::Command::Kind::Probe});
    (void)QTest::qWaitFor([&] { return told.last<LatencyFound>().has_value(); }, 20'000);
    return told.last<LatencyFound>() ? told.last<LatencyFound>()->frames : std::nullopt;
  }

private slots:
  void initTestCase() {
    qputenv("XDG_RUNTIME_DIR", m_dir.path().toUtf8());
    qputenv("JACK_DEFAULT_SERVER", "tuvvo-test-in");
    qputenv("JACK_NO_START_SERVER", "1");
    for (const char* program : {"jackd", "pulseaudio"})
      QVERIFY2(!QStandardPaths::findExecutable(program).isEmpty(),
               "it is in packages-test.txt and must be here");
  }

  void barsThroughARealLoopAreCutToTheFrame_data() {
    QTest::addColumn<int>("block");
    QTest::newRow("256") << 256;
    QTest::newRow("1024") << 1024;
  }
  void barsThroughARealLoopAreCutToTheFrame() {
    QFETCH(int, block);
    startJack(block);
    const auto made = clickProject({0}, 131.7, 2);
    const Score score = compilePattern(made.project, made.pattern);
    Engine engine;
    engine.setScore(std::make_shared<Score>(score));
    Told told;
    {
      Catcher catcher(engine.input(), told.taker());
      LiveSound live(engine);
      const std::string said = live.open(jackChoice(block));
      QVERIFY2(said.empty(), said.c_str());
      QCOMPARE(live.device()->blockFrames(), block);
      QVERIFY(live.inputName().starts_with("JACK"));
      {
        JackHand hand;
        QCOMPARE(hand.loop(), 2);
      }
      const auto latency = measured(engine, catcher, told);
      QVERIFY(latency.has_value());
      qInfo("JACK, blocks of %d: there and back in %d frames", block, int(*latency));
      QCOMPARE(measured(engine, catcher, told), latency); // the same every time
      BarsRequest order;
      order.frames =
          std::llround(8 * score.tempo.framesPerBeat(kEngineRate)); // two bars, from the start
      order.latency = *latency;
      catcher.order(order);
      catcher.finish();
      engine.send({Engine::Command::Kind::Play});
      EVENTUALLY(told.last<BarsCaught>().has_value());
      const auto caught = *told.last<BarsCaught>();
      QVERIFY(caught.whole);
      QCOMPARE(std::int64_t(caught.channels[0].size()), order.frames);
      const auto clicks = clicksIn(*makeSound(caught.channels[0]));
      QCOMPARE(clicks.size(), std::size_t(1));
      QVERIFY2(clicks[0] <= 1, qPrintable(QString::number(clicks[0])));
    }
    endJack();
  }

  void aBlockThatChangesIsSurvived() {
    startJack(256);
    const auto made = clickProject({0}, 120, 8);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compilePattern(made.project, made.pattern)));
    LiveSound live(engine);
    QVERIFY(live.open(jackChoice(256)).empty());
    engine.send({Engine::Command::Kind::Play});
    EVENTUALLY(engine.position().value > 1000);
    {
      JackHand hand;
      QVERIFY(hand.setBlock(512));
    }
    const std::string said = watched(live);
    QVERIFY2(QString::fromStdString(said).contains("opened again"), said.c_str());
    QCOMPARE(live.device()->blockFrames(), 512);
    QVERIFY(!live.device()->simulated());
    const auto place = engine.position();
    EVENTUALLY(engine.position() > place);
    live.close();
    endJack();
  }

  void aServerThatIsKilledAndComesBack() {
    startJack(512);
    Engine engine;
    const auto made = clickProject({0}, 120, 8);
    engine.setScore(std::make_shared<Score>(compilePattern(made.project, made.pattern)));
    Told told;
    {
      Catcher catcher(engine.input(), told.taker());
      LiveSound live(engine);
      live.setPatience(std::chrono::milliseconds(100));
      QVERIFY(live.open(jackChoice(512)).empty());
      {
        JackHand hand;
        QCOMPARE(hand.loop(), 2);
      }
      engine.send({Engine::Command::Kind::Play});
      catcher.order(
          LongRequest{pathIn(m_dir, "takes"), {live.inputName(), "2026-11-26 22:00", "dry"}});
      EVENTUALLY(catcher.now().frames > 48000);
      m_server->kill(); // while it plays and records
      m_server->waitForFinished(5000);
      const std::int64_t caught = catcher.now().frames;
      std::string said = watched(live);
      QVERIFY2(QString::fromStdString(said).contains("has gone"), said.c_str());
      const auto place = engine.position();
      EVENTUALLY(engine.position() > place); // the music goes on
      catcher.order({});
      EVENTUALLY(told.last<LongCaught>().has_value());
      QVERIFY(!told.last<LongCaught>()->trouble);
      QVERIFY(told.last<LongCaught>()->frames >= caught);
      QVERIFY(takesIn(pathIn(m_dir, "takes"))[0].length.value > 1);
      startJack(512, 44100); // at another rate
      said = watched(live);
      QVERIFY2(QString::fromStdString(said).contains("is back"), said.c_str());
      QVERIFY(!live.device()->simulated());
      QCOMPARE(live.device()->rate().value, 44100.0);
      const auto before = engine.position();
      const auto heard = engine.input().frames();
      EVENTUALLY(engine.position() > before && engine.input().frames() > heard);
    }
    endJack();
  }

  void pulseAudioReallyListens() {
    const QString socket = m_dir.path() + "/pulse-socket";
    qputenv("PULSE_SERVER", ("unix:" + socket).toUtf8());
    // What is played into a sink is the input: its monitor.
    start("pulseaudio",
          {"-n", "--daemonize=no", "--exit-idle-time=-1", "--use-pid-file=no", "--disable-shm=yes",
           "-L", "module-null-sink sink_name=quay rate=48000 channels=2", "-L",
           "module-native-protocol-unix auth-anonymous=1 socket=" + socket});
    EVENTUALLY(QFile::exists(socket));
    EVENTUALLY_IS(QProcess::execute("pactl", {"set-default-source", "quay.monitor"}), 0);
    Engine engine;
    engine.setScore(std::make_shared<Score>());
    Told told;
    {
      Catcher catcher(engine.input(), told.taker());
      LiveSound live(engine);
      SoundChoice choice{OutputChoice::Pulse};
      choice.blockFrames = 1024;
      choice.input = InputChoice::Device;
      const std::string said = live.open(choice);
      QVERIFY2(said.empty(), said.c_str());
      QVERIFY(live.inputName().starts_with("PulseAudio"));
      EVENTUALLY(engine.input().frames() > 48000);
      // A busy machine leaves gaps in the recording, and a gap in the probe spoils it: the program
      // says so by the correlation, and a person measures again.
      std::optional<std::int64_t> latency;
      for (int i = 0; i < 5; ++i) {
        latency = measured(engine, catcher, told);
        QVERIFY(told.last<LatencyFound>().has_value());
        if (latency && told.last<LatencyFound>()->correlation > 0.9) break;
      }
      QVERIFY(latency.has_value());
      qInfo("PulseAudio, blocks of 1024: there and back in %d frames (%.0f ms)", int(*latency),
            double(*latency) / 48);
      QVERIFY(told.last<LatencyFound>()->correlation > 0.9);
    }
    m_server->terminate();
    m_server->waitForFinished(5000);
    qunsetenv("PULSE_SERVER");
  }

  void aSimulatedCableIsMeasuredAndCut() {
    const auto made = clickProject({0}, 97.3, 1);
    const Score score = compilePattern(made.project, made.pattern);
    Engine engine;
    engine.setScore(std::make_shared<Score>(score));
    Told told;
    Catcher catcher(engine.input(), told.taker());
    LiveSound live(engine);
    SoundChoice choice{OutputChoice::Simulated};
    choice.blockFrames = 512;
    choice.input = InputChoice::Cable;
    QVERIFY(live.open(choice).empty());
    QVERIFY(QString::fromStdString(live.inputName()).contains("Simulated"));
    const auto latency = measured(engine, catcher, told);
    QCOMPARE(latency.value_or(0), std::int64_t(512 + SimulatedInput::kCable + Limiter::kLatency));
    BarsRequest order;
    order.frames = std::llround(4 * score.tempo.framesPerBeat(kEngineRate));
    order.latency = *latency;
    catcher.order(order);
    catcher.finish();
    engine.send({Engine::Command::Kind::Play});
    EVENTUALLY(told.last<BarsCaught>().has_value());
    QCOMPARE(clicksIn(*makeSound(told.last<BarsCaught>()->channels[0])).at(0), std::int64_t(0));
  }

  void aSimulatedLinePlaysAsAPlayerDoes() {
    SimulatedInput line(SimulatedInput::Kind::Line);
    const Samples tone = sine(400, 1, 44100);
    line.load(makeSound(tone, 44100));
    LineSettings settings;
    settings.level = Decibels(-6);
    settings.speed = 1.5;
    line.set(settings);
    line.start();
    Samples left(24000), right(24000);
    for (int at = 0; at < 24000; at += 240) line.render(left.data() + at, right.data() + at, 240);
    // 600 Hz at half the level: by zero crossings and by peak.
    int crossings = 0;
    for (std::size_t i = 1; i < left.size(); ++i) crossings += left[i - 1] < 0 && left[i] >= 0;
    QVERIFY(std::abs(crossings - 300) <= 1);
    QVERIFY(std::abs(peakOf(left) - 0.5f * 0.501f) < 0.005f);
    // Hum and hiss are as loud as they say, and stay when it is stopped.
    line.stop();
    for (auto [hum, hiss] : {std::pair{-40.0, -100.0}, {-100.0, -50.0}}) {
      settings.hum = Decibels(hum);
      settings.hiss = Decibels(hiss);
      line.set(settings);
      for (int at = 0; at < 24000; at += 240) line.render(left.data() + at, right.data() + at, 240);
      double square = 0;
      for (float v : left) square += double(v) * double(v);
      const double rms = 10 * std::log10(square / 24000);
      QVERIFY2(std::abs(rms - std::max(hum, hiss)) < 0.6, qPrintable(QString::number(rms)));
    }
  }

  void otherRatesComeInAsTheyAre() {
    // A tone of 1 kHz at 44.1 kHz comes in at 48 kHz as 1 kHz, whole.
    Samples heard;
    RateBridge bridge(
        [&](const SoundBlock& block) {
          heard.insert(heard.end(), block.inLeft, block.inLeft + block.frames);
          std::fill(block.left, block.left + block.frames, 0.0f);
          std::fill(block.right, block.right + block.frames, 0.0f);
        },
        Hertz(48000), Hertz(44100), 1024);
    const Samples tone = sine(1000, 2, 44100);
    Samples left(1024), right(1024);
    Random random(5);
    for (std::size_t at = 0; at < tone.size();) {
      const auto n = std::min<std::size_t>(tone.size() - at, 1 + random.next() % 1024);
      bridge.fill({left.data(), right.data(), &tone[at], &tone[at], int(n)});
      at += n;
    }
    double c = 0, s = 0, all = 0;
    const std::size_t from = 2000, until = 90'000;
    for (std::size_t i = from; i < until; ++i) {
      c += double(heard[i]) * std::cos(2 * M_PI * 1000 * double(i) / 48000);
      s += double(heard[i]) * std::sin(2 * M_PI * 1000 * double(i) / 48000);
      all += double(heard[i]) * double(heard[i]);
    }
    const double n = double(until - from);
    QVERIFY(std::abs(std::hypot(c, s) * 2 / n - 0.5) < 1e-3);
    QVERIFY(std::abs(all / n - 0.125) < 1e-3);
  }

  void namesOfInputs() {
    QVERIFY(inputFromName("line") == InputChoice::Line);
    QVERIFY(!inputFromName("gramophone"));
    for (auto choice : {InputChoice::None, InputChoice::Device, InputChoice::Cable})
      QVERIFY(inputFromName(nameOf(choice)) == choice);
  }
};

QTEST_GUILESS_MAIN(TestSoundIn)
#include "tst_sound_in.moc"
