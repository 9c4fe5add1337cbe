// Catching sound: measured levels, single hits, bars to the frame, takes that outlive a kill, and
// the way there and back.
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

/// A file of hits as a room and a converter would give them, with what is true of it.
struct RenderedHits {
  Samples left, right;
  struct True {
    std::int64_t onset = 0; ///< the first frame that differs from the noise
    std::int64_t loud = 0;  ///< where it has risen within 6 dB of its peak
  };
  std::vector<True> hits;
};

/// White noise of −66 dBFS RMS lies under it, and hum 6 dB below that.
/// @param apart  as single sounds are sampled: each is struck when the one before has fallen to 12
///               dB under it; else it may come into the other's ring, however loud that is
RenderedHits renderHits(int count, std::uint64_t seed, bool apart = true) {
  RenderedHits out;
  Random random(seed);
  constexpr double rate = 48000;
  constexpr double noiseDb = -66;
  double place = 1.0;
  out.left.assign(std::size_t(count * 2.2 * rate), 0.0f);
  out.right = out.left;
  for (int n = 0; n < count; ++n) {
    const int kind = int(random.next() % 6);
    const double gain = std::pow(10, -(3 + random.unit() * 37) / 20); // −3 to −40 dBFS
    while (apart) { // until it is quiet enough for this one
      const auto from = out.left.begin() + std::ptrdiff_t(place * rate);
      const float rings =
          std::max(peakOf(std::span(from, 2400)),
                   peakOf(std::span(from - out.left.begin() + out.right.begin(), 2400)));
      if (double(rings) < gain / 4) break;
      place += 0.02;
    }
    const double pan = 0.5 + 0.3 * random.bipolar(), hz = 45 * std::pow(2, random.unit() * 4.5),
                 ring = 0.03 + 0.25 * random.unit() * random.unit();
    const auto first = std::size_t(place * rate);
    RenderedHits::True truth;
    truth.onset = std::int64_t(first);
    std::vector<float> wave;
    for (std::size_t i = 0; i < std::size_t(1.6 * rate) && first + i < out.left.size(); ++i) {
      const double t = double(i) / rate, noise = random.bipolar();
      double v = 0;
      switch (kind) {
      case 0: // a low drum whose pitch falls
        v = std::exp(-t / (ring + 0.08)) *
            std::sin(2 * M_PI * (hz / 2 * t + 1.2 * (1 - std::exp(-t * 40))) + 0.3);
        break;
      case 1: // noise and a tone
        v = std::exp(-t / (ring * 0.5)) * noise * 0.8 +
            std::exp(-t / 0.05) * 0.4 * std::sin(2 * M_PI * 190 * t);
        break;
      case 2: // short and high
        v = std::exp(-t / (0.01 + ring * 0.2)) * noise;
        break;
      case 3: // several hands within 30 ms, and a tail
        for (int k = 0; k < 3; ++k)
          if (t >= k * 0.011) v = noise * std::exp(-(t - k * 0.011) / (k == 2 ? 0.08 : 0.004));
        break;
      case 4: // two strings that beat
        v = std::min(1.0, t / 0.003) * std::exp(-t / (ring + 0.15)) *
            (std::sin(2 * M_PI * hz * 2 * t) + std::sin(2 * M_PI * (hz * 2 + 5) * t)) / 2;
        break;
      default: // blown: it takes 25 ms to rise
        v = std::min(1.0, t / 0.025) * std::exp(-t / (ring + 0.1)) *
            (0.8 * std::sin(2 * M_PI * hz * 3 * t) + 0.2 * noise);
      }
      wave.push_back(float(gain * v));
    }
    const float peak = peakOf(wave);
    for (std::size_t i = 0; i < wave.size(); ++i) {
      if (truth.loud == 0 && std::abs(wave[i]) >= peak / 2) truth.loud = std::int64_t(first + i);
      out.left[first + i] += wave[i] * float(std::sqrt(1 - pan) * M_SQRT2);
      out.right[first + i] += wave[i] * float(std::sqrt(pan) * M_SQRT2);
    }
    out.hits.push_back(truth);
    place += 0.35 + random.unit() * 1.4;
  }
  out.left.resize(std::size_t((place + 1.5) * rate));
  out.right.resize(out.left.size());
  const double noise = std::pow(10, noiseDb / 20) * std::sqrt(3.0),
               hum = std::pow(10, (noiseDb - 6) / 20) * M_SQRT2;
  for (std::size_t i = 0; i < out.left.size(); ++i) {
    const double h = hum * std::sin(2 * M_PI * 50 * double(i) / rate);
    out.left[i] += float(noise * random.bipolar() + h);
    out.right[i] += float(noise * random.bipolar() + h);
  }
  return out;
}

struct Count {
  int hits = 0, once = 0, whole = 0, split = 0, missed = 0, spurious = 0;
};

Count countCaught(const RenderedHits& file, const std::vector<CaughtHit>& caught) {
  Count count;
  count.hits = int(file.hits.size());
  std::vector<int> claimed(file.hits.size());
  for (const auto& hit : caught) {
    const std::int64_t attack = hit.start + hit.attack;
    int belongs = -1; // the hit whose sound is in it from near its beginning
    for (std::size_t i = 0; i < file.hits.size(); ++i)
      if (attack >= file.hits[i].onset - 480 && attack <= file.hits[i].loud + 960) belongs = int(i);
    if (belongs >= 0) {
      ++claimed[std::size_t(belongs)];
      if (claimed[std::size_t(belongs)] == 1 && hit.start <= file.hits[std::size_t(belongs)].onset)
        ++count.whole;
      continue;
    }
    // Inside of another's ringing it splits that one; in nothing at all it is false.
    bool inside = false;
    for (const auto& truth : file.hits)
      inside = inside || (attack > truth.onset && attack < truth.onset + 76'800);
    ++(inside ? count.split : count.spurious);
  }
  for (int times : claimed) {
    count.once += times == 1;
    count.missed += times == 0;
    count.split += std::max(0, times - 1);
  }
  return count;
}

std::vector<CaughtHit> catchAll(const RenderedHits& file, const HitSettings& settings, int block) {
  std::vector<CaughtHit> caught;
  HitCatcher catcher(settings, Hertz(48000));
  const auto take = [&](CaughtHit hit) { caught.push_back(std::move(hit)); };
  for (std::size_t at = 0; at < file.left.size(); at += std::size_t(block))
    catcher.feed(file.left.data() + at, file.right.data() + at,
                 int(std::min(std::size_t(block), file.left.size() - at)), take);
  catcher.finish(take);
  return caught;
}

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

class TestCatch : public QObject {
  Q_OBJECT

private slots:
  void hitsAreCaughtOnceAndWhole_data() {
    QTest::addColumn<int>("first");
    QTest::addColumn<bool>("apart");
    QTest::newRow("open") << 1 << true; // the figures of HitCatcher were chosen by looking at these
    QTest::newRow("held out") << 1001 << true; // and never at these
    QTest::newRow("into each other's ring, open") << 1 << false;
    QTest::newRow("into each other's ring, held out") << 1001 << false;
  }
  void hitsAreCaughtOnceAndWhole() {
    QFETCH(int, first);
    QFETCH(bool, apart);
    Count all;
    for (int seed = first; seed < first + (apart ? 5 : 1); ++seed) {
      const RenderedHits file = renderHits(200, std::uint64_t(seed), apart);
      const Count c = countCaught(file, catchAll(file, {}, 128));
      for (auto [sum, one] : {std::pair{&all.hits, c.hits},
                              {&all.once, c.once},
                              {&all.whole, c.whole},
                              {&all.split, c.split},
                              {&all.missed, c.missed},
                              {&all.spurious, c.spurious}})
        *sum += one;
    }
    qInfo("of %d hits %d once, %d whole, %d missed; %d splits, %d false", all.hits, all.once,
          all.whole, all.missed, all.split, all.spurious);
    QVERIFY(all.once >= (apart ? 0.99 : 0.95) * all.hits); // a quiet one may drown in a loud one
    QVERIFY(all.whole >= (apart ? 0.99 : 0.94) * all.hits);
    QVERIFY(all.split <= (apart ? 0 : 0.01 * all.hits));
    QVERIFY(all.spurious < 0.01 * all.hits);
  }

  void howItIsFedDoesNotMatter() {
    const RenderedHits file = renderHits(20, 7);
    const auto a = catchAll(file, {}, 64), b = catchAll(file, {}, 5000);
    QCOMPARE(a.size(), b.size());
    for (std::size_t i = 0; i < a.size(); ++i) {
      QCOMPARE(a[i].start, b[i].start);
      QVERIFY(a[i].channels == b[i].channels);
    }
  }

  void preRollSilenceAndLengthAreAsSet() {
    Samples file(48000 * 14);
    Random random(3);
    for (auto& v : file) v = float(1e-4 * random.bipolar());
    for (int i = 0; i < 48000 * 12; ++i) file[std::size_t(48000 + i)] += 0.25f; // it never ends
    HitSettings settings;
    settings.preRoll = Milliseconds(40);
    settings.longest = Seconds(3);
    std::vector<CaughtHit> caught;
    HitCatcher catcher(settings, Hertz(48000));
    catcher.feed(file.data(), file.data(), int(file.size()),
                 [&](CaughtHit hit) { caught.push_back(std::move(hit)); });
    QCOMPARE(caught.size(), std::size_t(1)); // then it is what the room is like
    QVERIFY(std::abs(double(caught[0].attack) - 40 * 48) <= 48 * 3);
    QVERIFY(caught[0].start <= 48000 - 37 * 48);
    QVERIFY(std::abs(double(caught[0].channels[0].size()) - 3.04 * 48000) < 480);
  }

  void levelsAreMeasured() {
    InputLine line;
    const Samples tone = sine(1000, 2, 48000, 0.5);
    Samples loud(480, 0.2f);
    for (int i = 0; i < 3; ++i) loud[std::size_t(100 + i)] = 1.0f; // three in a row
    loud[200] = 1.0f;                                              // one alone is no clip
    loud[300] = -1.2f;                                             // beyond full scale it is
    line.measure(tone.data(), loud.data(), int(loud.size()));
    line.measure(tone.data(), tone.data(), int(tone.size()));
    const auto level = line.takeLevel();
    QVERIFY(std::abs(level.peak[0] - 0.5f) < 1e-3f);
    QVERIFY(std::abs(level.peak[1] - 1.2f) < 1e-6f);
    // A sine's RMS lies 3.01 dB under its peak (by definition).
    QVERIFY(std::abs(20 * std::log10(double(level.rms[0])) + 9.03) < 0.05);
    QCOMPARE(level.clips, 2u);
    QVERIFY(line.takeLevel().peak[0] == 0);
  }

  void whatNobodyReadsIsCountedNotWritten() {
    InputLine line;
    const Samples block(512, 0.5f);
    InputLine::Place place;
    place.frames = 512;
    for (int i = 0; i < 600; ++i) line.take(block.data(), block.data(), place);
    QCOMPARE(line.lost(), std::uint64_t(600 * 512 - InputLine::kRing));
    QCOMPARE(line.frames(), std::int64_t(600 * 512));
  }

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

QTEST_GUILESS_MAIN(TestCatch)
#include "tst_catch.moc"
