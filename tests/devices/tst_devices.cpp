#include "devices/live_sound.h"
#include "devices/rate_bridge.h"
#include "devices/simulated_controller.h"
#include "formats/shipped.h"
#include "patience.h"
#include "play/print.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestDevices : public QObject {
  Q_OBJECT
private slots:
  void liveAndPrintAgreeSampleForSample() {
    JobContext job;
    Project demo = *shippedDemo(TUVVO_DATA_DIR, job);
    demo.sections = {demo.sections[2]};
    demo.sections[0].bars = 1;
    const Score score = compileSong(demo);
    const auto printed = *print(score, {}, job);
    Engine engine;
    engine.setScore(std::make_shared<Score>(score));
    engine.send({Engine::Command::Kind::Play});
    DeviceSettings settings;
    settings.blockFrames = 192;
    // Nothing is asked of the engine before the capture runs: the first block holds the first
    // frame.
    Samples heardLeft, heardRight;
    std::atomic<bool> done{false};
    {
      SimulatedDevice device(settings, [&](const SoundBlock& block) {
        float *l = block.left, *r = block.right;
        const int n = block.frames;
        engine.process(l, r, n);
        if (heardLeft.size() < std::size_t(score.length.value + Limiter::kLatency)) {
          heardLeft.insert(heardLeft.end(), l, l + n);
          heardRight.insert(heardRight.end(), r, r + n);
        } else {
          done = true;
        }
      });
      EVENTUALLY(done.load());
    }
    // The print ends with its bars; the live engine rings on. The last 5 ms of a print may be
    // faded.
    std::int64_t different = 0;
    for (std::int64_t i = 0; i < score.length.value - 240; ++i) {
      different +=
          heardLeft[std::size_t(i + Limiter::kLatency)] != printed->channel(0)[std::size_t(i)] ? 1
                                                                                               : 0;
      different +=
          heardRight[std::size_t(i + Limiter::kLatency)] != printed->channel(1)[std::size_t(i)] ? 1
                                                                                                : 0;
    }
    QCOMPARE(different, 0);
  }

  void theSimulatedClockIsReal() {
    std::atomic<std::int64_t> frames{0};
    QElapsedTimer timer;
    timer.start();
    {
      SimulatedDevice device({}, [&](const SoundBlock& block) {
        float *l = block.left, *r = block.right;
        const int n = block.frames;
        std::fill(l, l + n, 0.0f);
        std::fill(r, r + n, 0.0f);
        frames += n;
      });
      QTest::qWait(600);
    }
    const double seconds = double(timer.nsecsElapsed()) * 1e-9;
    QVERIFY(double(frames) <= (seconds + 0.02) * 48000); // never ahead of the clock
    QVERIFY(double(frames) > 0.5 * seconds * 48000);
  }

  /// The simulated player, when it is exact: each note of its first figure where and as hard as it
  /// is written, give or take what a hand gives.
  void theSimulatedPlayerPlaysItsFigure() {
    SimulatedController::Player player;
    player.bpm = 120;
    player.bars = 1;
    player.looseMs = player.lateMs = 0;
    player.leadInS = 0.5;
    player.figure = 0;
    struct Note {
      double sixteenth;
      int note, velocity;
    };
    std::vector<Note> wanted{{0, 36, 118}, {4, 38, 110}, {10, 36, 98}, {12, 38, 114}};
    for (int i = 0; i < 16; i += 2) wanted.push_back({double(i), 42, i % 4 == 0 ? 88 : 62});
    std::vector<TimedMidi> notes;
    for (const auto& each : SimulatedController::played(player))
      if (each.message.kind == MidiKind::NoteOn) notes.push_back(each);
    QCOMPARE(notes.size(), wanted.size());
    double on = 0, off = 0;
    for (const auto& want : wanted) {
      const auto found = std::find_if(notes.begin(), notes.end(), [&](const TimedMidi& each) {
        return each.message.number == want.note &&
               std::abs(each.atS - (0.5 + want.sixteenth * 0.125)) < 1e-9;
      });
      QVERIFY(found != notes.end());
      QVERIFY(std::abs(found->message.value - want.velocity) <= 24);
      if (want.note == 42) (want.velocity == 88 ? on : off) += found->message.value / 4.0;
    }
    QVERIFY2(on > off + 12 && std::abs(on - 88) < 12 && std::abs(off - 62) < 12,
             qPrintable(QString("%1 %2").arg(on).arg(off)));
  }

  void captureKeepsWhatWasPlayed() {
    SimulatedDevice device({}, [](const SoundBlock& block) {
      float *l = block.left, *r = block.right;
      const int n = block.frames;
      std::fill(l, l + n, 0.25f);
      std::fill(r, r + n, -0.25f);
    });
    device.startCapture(2000);
    EVENTUALLY_IS(device.captured().left.size(), std::size_t(2000));
    QCOMPARE(device.captured().right[1999], -0.25f);
  }

  void aVanishedDeviceIsReplacedAndTheSongGoesOn() {
    // JACK is asked for where none runs: the simulated output takes its place and says so.
    qunsetenv("JACK_DEFAULT_SERVER");
    qputenv("JACK_DEFAULT_SERVER", "tuvvo-test-none");
    auto made = clickProject({0}, 120, 8);
    Engine engine;
    engine.setScore(std::make_shared<Score>(compileSong(made.project)));
    LiveSound output(engine);
    const std::string said = output.open({OutputChoice::Jack});
    QVERIFY(!said.empty());
    QVERIFY(QString::fromStdString(said).contains("simulated"));
    QVERIFY(output.device()->simulated());
    engine.send({Engine::Command::Kind::Play});
    EVENTUALLY(engine.position().value > 4000);
    const auto before = engine.position();
    QVERIFY(output.open({OutputChoice::Simulated}).empty());
    EVENTUALLY(engine.position() > before);
    QVERIFY(output.watch().empty());
    qunsetenv("JACK_DEFAULT_SERVER");
  }

  void otherRatesAreBridged_data() {
    QTest::addColumn<double>("rate");
    for (double rate : {44100.0, 96000.0, 32000.0})
      QTest::newRow(qPrintable(QString::number(rate))) << rate;
  }
  void otherRatesAreBridged() {
    QFETCH(double, rate);
    std::int64_t at = 0;
    RateBridge bridge(
        [&](const SoundBlock& block) {
          float *l = block.left, *r = block.right;
          const int n = block.frames;
          for (int i = 0; i < n; ++i, ++at)
            l[i] = r[i] = float(0.5 * std::sin(2 * M_PI * 997 * double(at) / 48000));
        },
        Hertz(48000), Hertz(rate), 1024);
    Samples left(40000), right(40000);
    Random random(2);
    for (std::size_t done = 0; done < left.size();) {
      const auto n = std::min<std::size_t>(left.size() - done, 1 + random.next() % 1024);
      bridge.fill({left.data() + done, right.data() + done, nullptr, nullptr, int(n)});
      done += n;
    }
    // The same tone at the device's rate: correlate against sine and cosine.
    double c = 0, s = 0, all = 0;
    for (std::size_t i = 2000; i < left.size(); ++i) {
      c += double(left[i]) * std::cos(2 * M_PI * 997 * double(i) / rate);
      s += double(left[i]) * std::sin(2 * M_PI * 997 * double(i) / rate);
      all += double(left[i]) * double(left[i]);
    }
    const double n = double(left.size() - 2000);
    QVERIFY(std::abs(std::hypot(c, s) * 2 / n - 0.5) < 1e-3);
    QVERIFY(std::abs(all / n - 0.125) < 1e-3);
    QVERIFY(left == right);
  }

  void namesOfOutputs() {
    QVERIFY(outputFromName("pulse") == OutputChoice::Pulse);
    QVERIFY(!outputFromName("gramophone"));
  }
};

QTEST_GUILESS_MAIN(TestDevices)
#include "tst_devices.moc"
