// Single hits in what comes in: each is caught once and whole; levels; what nobody reads.
#include "catch/told.h"
#include "play/engine.h"
#include "support.h"

#include <QtTest>
#include <set>

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

  void bothChannelsAreReadAsTheyCame() {
    InputLine line;
    const int frames = 7001; // so that blocks lie across the ring's end
    Samples left(frames), right(frames), l(frames), r(frames);
    float next = 1;
    for (int block = 0; block < int(3 * InputLine::kRing / frames); ++block) {
      for (std::size_t i = 0; i < left.size(); ++i) {
        left[i] = next++;
        right[i] = -next;
      }
      InputLine::Place place, came;
      place.frames = frames;
      line.take(left.data(), right.data(), place);
      QVERIFY(line.nextPlace(came) && came.frames == frames);
      line.read(l.data(), r.data(), frames);
      QVERIFY(l == left && r == right);
    }
    QCOMPARE(line.lost(), std::uint64_t(0));
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
};

QTEST_GUILESS_MAIN(TestCatch)
#include "tst_catch.moc"
