// The catcher beside an engine: bars to the frame, takes that outlive a kill, and the way there and
// back.
#include "audio/decode.h"
#include "audio/probe.h"
#include "base/files.h"
#include "catch/told.h"
#include "patience.h"
#include "play/engine.h"
#include "play/score.h"
#include "support.h"

#include <QtTest>
#include <cerrno>
#include <set>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// An engine whose output comes back late by a number of frames.
class Loop {
public:
  Loop(Engine& engine, int late, int block) : m_engine(engine), m_late(late), m_block(block) {}
  std::function<void(std::span<float>, std::int64_t first)> onTheWay;

  void run(std::int64_t frames) {
    for (std::int64_t done = 0; done < frames; done += m_block) {
      std::vector<float> l(static_cast<std::size_t>(m_block)), r(l.size()), in(l.size());
      for (std::size_t i = 0; i < in.size(); ++i) {
        const std::int64_t at = std::int64_t(m_out.size() + i) - m_late;
        in[i] = at >= 0 && at < std::int64_t(m_out.size()) ? m_out[std::size_t(at)] : 0;
      }
      if (onTheWay) onTheWay(in, std::int64_t(m_out.size()));
      m_engine.process(l.data(), r.data(), m_block, {}, in.data(), in.data());
      m_out.insert(m_out.end(), l.begin(), l.end());
      while (m_engine.input().waiting() > std::int64_t(InputLine::kRing / 2))
        QThread::msleep(1); // the catcher keeps up
    }
  }
  [[nodiscard]] const std::vector<float>& out() const { return m_out; }

private:
  Engine& m_engine;
  int m_late, m_block;
  std::vector<float> m_out;
};

TakeAbout about() { return {"Simulated line input", "2026-11-26 21:45", "long take"}; }

class FullDisc : public DiscCalls {
public:
  std::int64_t room = 1'000'000;
  long write(int fd, const void* bytes, std::size_t count) override {
    if (room <= 0) {
      errno = ENOSPC;
      return -1;
    }
    const auto n = std::min<std::size_t>(count, std::size_t(room));
    room -= std::int64_t(n);
    return DiscCalls::write(fd, bytes, n);
  }
};

} // namespace

class TestCatcher : public QObject {
  Q_OBJECT

private slots:
  // Farina's exponential sweep, by its instantaneous frequency: low * (high / low)^(t / length).
  void theProbeIsTheSweepThatItSays() {
    const auto wave = probeWave();
    QCOMPARE(wave.size(), std::size_t(kProbeFrames));
    QVERIFY(std::abs(wave.front()) < 1e-7f && std::abs(wave.back()) < 1e-7f);
    double phase = 0; // the frequency summed up, by the trapezoid rule at a sixteenth of a frame
    for (int i = 0; i < kProbeFrames; ++i) {
      // 5 ms of even fade at either end.
      const double edge = std::min({1.0, i / 240.0, (kProbeFrames - 1 - i) / 240.0});
      QVERIFY(std::abs(double(wave[std::size_t(i)]) - 0.25 * edge * std::sin(phase)) < 1e-3);
      constexpr int parts = 16;
      for (int k = 0; k < parts; ++k) {
        const auto hertz = [&](double frame) {
          return 150 * std::pow(100.0, frame / kProbeFrames);
        };
        const double from = i + double(k) / parts, to = i + double(k + 1) / parts;
        phase += 2 * M_PI * 0.5 * (hertz(from) + hertz(to)) / 48000 / parts;
      }
    }
  }

  void theProbeIsFound_data() {
    QTest::addColumn<int>("late");
    QTest::addColumn<double>("gain");
    QTest::addColumn<double>("noise");
    QTest::newRow("clean") << 319 << 1.0 << 0.0;
    QTest::newRow("quiet and turned over") << 1031 << -0.02 << 0.0;
    QTest::newRow("noisy") << 4803 << 0.3 << 0.03;
  }
  void theProbeIsFound() {
    QFETCH(int, late);
    QFETCH(double, gain);
    QFETCH(double, noise);
    Engine engine;
    Told told;
    Catcher catcher(engine.input(), told.taker());
    Loop loop(engine, late, 128);
    Random random(4);
    loop.onTheWay = [&](std::span<float> in, std::int64_t) {
      for (auto& v : in) v = float(double(v) * gain + noise * random.bipolar());
    };
    catcher.order(ProbeRequest{});
    catcher.finish(); // it listens before the probe goes out
    engine.send({Engine::Command::Kind::Probe});
    loop.run(100'000);
    EVENTUALLY_IS(told.all<LatencyFound>().size(), std::size_t(1));
    const auto found = told.all<LatencyFound>()[0];
    QVERIFY(found.frames.has_value());
    QCOMPARE(*found.frames, std::int64_t(late + Limiter::kLatency));
    QVERIFY(std::abs(found.gain.value - 20 * std::log10(std::abs(gain))) < 0.3);
  }

  void whereNothingComesBackNothingIsFound() {
    Engine engine;
    Told told;
    Catcher catcher(engine.input(), told.taker());
    Loop loop(engine, 100, 128);
    Random random(4);
    loop.onTheWay = [&](std::span<float> in, std::int64_t) {
      for (auto& v : in) v = float(0.05 * random.bipolar());
    };
    catcher.order(ProbeRequest{});
    catcher.finish(); // it listens before the probe goes out
    engine.send({Engine::Command::Kind::Probe});
    loop.run(100'000);
    EVENTUALLY_IS(told.all<LatencyFound>().size(), std::size_t(1));
    QVERIFY(!told.all<LatencyFound>()[0].frames);
  }

  void barsAreCutToTheFrame_data() {
    QTest::addColumn<double>("bpm");
    QTest::addColumn<int>("bars");
    QTest::addColumn<int>("late");
    QTest::addColumn<int>("block");
    QTest::newRow("120") << 120.0 << 2 << 191 << 128;
    QTest::newRow("uneven") << 91.7 << 3 << 1500 << 192;
    QTest::newRow("long way, large blocks") << 143.21 << 4 << 9001 << 1024;
  }
  void barsAreCutToTheFrame() {
    QFETCH(double, bpm);
    QFETCH(int, bars);
    QFETCH(int, late);
    QFETCH(int, block);
    // A click on the first beat of every two bars, played, sent round, caught.
    const auto made = clickProject({0}, bpm, 2);
    Engine engine;
    const Score score = compilePattern(made.project, made.pattern);
    engine.setScore(std::make_shared<Score>(score));
    Told told;
    Catcher catcher(engine.input(), told.taker());
    Loop loop(engine, late, block);
    const auto barFrames = 4 * score.tempo.framesPerBeat(kEngineRate);
    BarsRequest order;
    order.from = score.length; // the second time round
    order.frames = std::llround(bars * barFrames);
    order.latency = late + Limiter::kLatency;
    catcher.order(order);
    catcher.finish();
    Engine::Command play{Engine::Command::Kind::Play};
    play.frame = EngineFrames(-std::llround(barFrames)); // counted in
    engine.send(play);
    loop.run(std::int64_t(barFrames * (bars + 4)) + late + 2 * block);
    EVENTUALLY_IS(told.all<BarsCaught>().size(), std::size_t(1));
    const auto caught = told.all<BarsCaught>()[0];
    QVERIFY(caught.whole);
    QCOMPARE(std::int64_t(caught.channels[0].size()), order.frames);
    // The click is the first frame: its place in the music is 0.
    const auto clicks = clicksIn(*makeSound(caught.channels[0]));
    QVERIFY(!clicks.empty());
    QCOMPARE(clicks[0], std::int64_t(0));
    for (std::size_t i = 1; i < clicks.size(); ++i)
      QVERIFY(std::abs(double(clicks[i]) - double(i) * double(score.length.value)) <= 1);
  }

  void musicThatStopsLeavesWhatWasCaught() {
    const auto made = clickProject({0}, 120, 2);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compilePattern(made.project, made.pattern)));
    Told told;
    Catcher catcher(engine.input(), told.taker());
    Loop loop(engine, 200, 128);
    catcher.order(BarsRequest{EngineFrames(0), 96000 * 4, 263});
    catcher.finish();
    engine.send({Engine::Command::Kind::Play});
    loop.run(96000);
    engine.send({Engine::Command::Kind::Stop});
    loop.run(4800);
    EVENTUALLY_IS(told.all<BarsCaught>().size(), std::size_t(1));
    QVERIFY(!told.all<BarsCaught>()[0].whole);
    QVERIFY(told.all<BarsCaught>()[0].channels[0].size() > 90'000);
  }

  void monitoringIsHeardAndTheRecordStaysDry_data() {
    QTest::addColumn<bool>("prints");
    QTest::newRow("dry") << false;
    QTest::newRow("the effect is printed") << true;
  }
  void monitoringIsHeardAndTheRecordStaysDry() {
    QFETCH(bool, prints);
    Engine engine;
    auto score = std::make_shared<Score>();
    score->monitor.on = true;
    score->monitor.left = score->monitor.right = 0.5f;
    score->monitor.filters.low.corner = 200; // a 5 kHz tone is some 56 dB down behind it
    score->monitor.prints = prints;
    engine.setScore(score);
    const Samples tone = sine(5000, 1, 48000, 0.5);
    Samples left(48000), right(48000), in(48000);
    for (int at = 0; at < 48000; at += 480)
      engine.process(left.data() + at, right.data() + at, 480, {}, tone.data() + at);
    InputLine::Place place;
    for (std::size_t at = 0; engine.input().nextPlace(place); at += std::size_t(place.frames)) {
      std::vector<float> r(static_cast<std::size_t>(place.frames));
      engine.input().read(in.data() + at, r.data(), place.frames);
    }
    const auto end = [](const Samples& s) { return peakOf(std::span(s).subspan(24000)); };
    QVERIFY(end(left) < 0.5f * 0.5f * 0.004f);
    QVERIFY(end(left) > 0.5f * 0.5f * 0.0005f);
    if (prints)
      QVERIFY(std::abs(end(in) - end(left)) < 1e-4f);
    else
      QVERIFY(std::equal(in.begin(), in.end(), tone.begin()));
    QVERIFY(std::abs(engine.input().takeLevel().peak[0] - 0.5f) < 1e-3f); // measured before it
  }

  void whatIsNotMonitoredIsNotHeardOnEitherSide() {
    Engine engine;
    auto score = std::make_shared<Score>();
    score->monitor.on = false;
    engine.setScore(score);
    const Samples tone = sine(500, 0.2, 48000, 0.5);
    Samples left(9600), right(9600);
    for (int at = 0; at < 9600; at += 480)
      engine.process(left.data() + at, right.data() + at, 480, {}, tone.data() + at,
                     tone.data() + at);
    QCOMPARE(peakOf(left), 0.0f);
    QCOMPARE(peakOf(right), 0.0f);
    auto heard = std::make_shared<Score>();
    heard->monitor.on = true;
    heard->monitor.left = 0.5f;
    heard->monitor.right = 0.25f;
    engine.setScore(heard);
    for (int at = 0; at < 9600; at += 480)
      engine.process(left.data() + at, right.data() + at, 480, {}, tone.data() + at,
                     tone.data() + at);
    QVERIFY(std::abs(peakOf(std::span(left).subspan(4800)) - 0.25f) < 1e-3f);
    QVERIFY(std::abs(peakOf(std::span(right).subspan(4800)) - 0.125f) < 1e-3f);
  }

  void aLongTakeIsWrittenAndKnown() {
    QTemporaryDir dir;
    auto begun = TakeFile::begin(pathIn(dir, "takes"), about());
    QVERIFY(begun.ok());
    auto take = std::move(begun).value();
    const Samples tone = sine(440, 2, 48000);
    for (int at = 0; at < 96000; at += 500)
      QVERIFY(take->write(&tone[std::size_t(at)], &tone[std::size_t(at)], 500).ok());
    auto second = std::move(TakeFile::begin(pathIn(dir, "takes"), about())).value();
    QVERIFY(second->path() != take->path());
    QVERIFY(take->finish().ok());
    const auto path = take->path();
    take.reset();
    JobContext job;
    const auto back = decodeFile(path, job);
    QVERIFY(back.ok());
    QVERIFY(std::equal(tone.begin(), tone.end(), back->sound->channel(1).begin()));
    const auto found = takesIn(pathIn(dir, "takes"));
    QCOMPARE(found.size(), std::size_t(1)); // the empty one is none
    QVERIFY(found[0].whole && found[0].about == about());
    QVERIFY(std::abs(found[0].length.value - 2) < 1e-9);
    QVERIFY(roomIn(pathIn(dir, "not/there/yet"))->value > 0);
  }

  void aKilledProcessLeavesAllButHalfASecond() {
    QTemporaryDir dir;
    const auto folder = pathIn(dir, "takes");
    int told[2];
    QCOMPARE(::pipe(told), 0);
    const pid_t child = ::fork();
    QVERIFY(child >= 0);
    if (child == 0) { // it records, tells how far it has come, and is killed in the middle
      auto take = TakeFile::begin(folder, about());
      if (!take) ::_exit(1);
      Samples block(480);
      for (std::int64_t done = 0;; done += 480) {
        for (std::size_t i = 0; i < 480; ++i)
          block[i] = float((done + std::int64_t(i)) % 4096) / 8192;
        if (!(*take)->write(block.data(), block.data(), 480)) ::_exit(2);
        const std::int64_t now = done + 480;
        if (::write(told[1], &now, sizeof now) != sizeof now) ::_exit(3);
        ::usleep(300);
      }
    }
    ::close(told[1]);
    std::int64_t written = 0;
    while (written < 48000 * 3)
      QCOMPARE(::read(told[0], &written, sizeof written), ssize_t(sizeof written));
    ::kill(child, SIGKILL);
    int status = 0;
    ::waitpid(child, &status, 0);
    QVERIFY(WIFSIGNALED(status));
    for (std::int64_t more = 0; ::read(told[0], &more, sizeof more) == ssize_t(sizeof more);)
      written = more;
    ::close(told[0]);
    const auto found = takesIn(folder);
    QCOMPARE(found.size(), std::size_t(1));
    QVERIFY(!found[0].whole);
    JobContext job;
    const auto back = decodeFile(found[0].path, job);
    QVERIFY(back.ok());
    qInfo("killed after %.3f s; %.3f s are there", double(written) / 48000,
          back->sound->duration().value);
    QVERIFY(back->sound->frames().value >= written - 24000);
    for (std::size_t i = 0; i < std::size_t(back->sound->frames().value); i += 97)
      QCOMPARE(back->sound->channel(0)[i], float(i % 4096) / 8192);
    QVERIFY(markWhole(found[0]).ok());
    QVERIFY(takesIn(folder)[0].whole);
  }

  void aFullDiscEndsTheTakeAndKeepsIt() {
    QTemporaryDir dir;
    Engine engine;
    engine.setScore(std::make_shared<Score>());
    Told told;
    FullDisc disc;
    disc.room = 48000 * 8 * 2 + 4096; // two seconds
    {
      Catcher catcher(engine.input(), told.taker());
      setDiscCalls(&disc);
      catcher.order(LongRequest{pathIn(dir, "takes"), about()});
      Loop loop(engine, 10, 512);
      loop.onTheWay = [](std::span<float> in, std::int64_t first) {
        for (std::size_t i = 0; i < in.size(); ++i)
          in[i] = float((first + std::int64_t(i)) % 1000) / 2000;
      };
      for (int s = 0; s < 5; ++s) {
        loop.run(48000);
        catcher.finish(); // it has seen what came
      }
      EVENTUALLY_IS(told.all<LongCaught>().size(), std::size_t(1));
    }
    setDiscCalls(nullptr);
    const auto caught = told.all<LongCaught>()[0];
    QVERIFY(caught.trouble.has_value());
    QVERIFY(QString::fromStdString(caught.trouble->text()).contains("Make room"));
    JobContext job;
    const auto back = decodeFile(caught.path, job);
    QVERIFY(back.ok());
    QVERIFY(back->sound->frames().value >= 48000 * 3 / 2);
    QVERIFY(!takesIn(pathIn(dir, "takes"))[0].whole);
  }

  void ordersFollowEachOther() {
    QTemporaryDir dir;
    Engine engine;
    engine.setScore(std::make_shared<Score>());
    Told told;
    Loop loop(engine, 10, 256);
    {
      Catcher catcher(engine.input(), told.taker());
      catcher.order(LongRequest{pathIn(dir, "takes"), about()});
      catcher.finish();
      loop.run(24000);
      catcher.order(HitsRequest{});
      EVENTUALLY_IS(told.all<LongCaught>().size(), std::size_t(1));
      loop.onTheWay = [](std::span<float> in, std::int64_t first) {
        for (std::size_t i = 0; i < in.size(); ++i) {
          const double t = double((first + std::int64_t(i)) % 24000) / 48000;
          in[i] = float(0.5 * std::exp(-t / 0.02) * std::sin(600 * t));
        }
      };
      loop.run(72000);
      catcher.order({});
    }
    QVERIFY(!told.all<LongCaught>()[0].trouble);
    QVERIFY(std::abs(double(told.all<LongCaught>()[0].frames) - 24000) <= 256);
    QVERIFY(told.all<HitCaught>().size() >= 2);
  }
};

QTEST_GUILESS_MAIN(TestCatcher)
#include "tst_catcher.moc"
