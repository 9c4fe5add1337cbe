// One voice and its interpolator, against closed forms and an independent resampler.
#include "audio/resample.h"
#include "play/patches.h"
#include "play/voice.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

const SincBank& sincs() {
  static const SincBank bank(SincBank::Make::Now);
  return bank;
}

struct Played {
  Samples left, right;
  int sounding = 0; ///< frames until the voice was done
};

/// Renders a voice in blocks of a size until so many frames are there.
Played play(Voice& voice, int frames, int block) {
  Played out{Samples(std::size_t(frames), 0.0f), Samples(std::size_t(frames), 0.0f), 0};
  for (int at = 0; at < frames; at += block) {
    voice.render(out.left.data() + at, out.right.data() + at, std::min(block, frames - at));
    if (voice.sounding()) out.sounding = at + block;
  }
  return out;
}

Played playPatch(const Patch& patch, int frames, int block = 128, std::int64_t hold = 0,
                 double tune = 1) {
  Voice voice;
  Voice::Start start;
  start.patch = &patch;
  start.hold = EngineFrames(hold);
  start.tune = tune;
  voice.start(start, sincs());
  return play(voice, frames, block);
}

SoundPtr constant(float level, int frames) {
  return makeSound(Samples(std::size_t(frames), level));
}

} // namespace

class TestVoice : public QObject {
  Q_OBJECT

private slots:
  // Kaiser's window for 100 dB (Kaiser 1974), with the standard library's Bessel function. Ours is
  // six times as fast, and a bank is made at every start.
  void kernelsAreKaisersWindowOfASinc() {
    const double beta = 0.1102 * (100 - 8.7);
    for (double step : {1.0, 2.0}) {
      const auto& kernel = sincs().forStep(step);
      const double half = kernel.taps / 2.0, cutoff = 1 / kernel.step;
      for (int phase : {0, 1, 128, 256}) {
        std::vector<double> wanted;
        double sum = 0;
        for (int k = 0; k < kernel.taps; ++k) {
          const double x = k - (half - 1) - phase / 256.0, a = M_PI * cutoff * x;
          const double window =
              std::abs(x) >= half
                  ? 0
                  : std::cyl_bessel_i(0.0, beta * std::sqrt(1 - x * x / half / half)) /
                        std::cyl_bessel_i(0.0, beta);
          wanted.push_back((std::abs(a) < 1e-9 ? 1 : std::sin(a) / a) * cutoff * window);
          sum += wanted.back();
        }
        for (int k = 0; k < kernel.taps; ++k)
          QVERIFY(std::abs(double(kernel.table[std::size_t(phase * kernel.taps + k)]) -
                           wanted[std::size_t(k)] / sum) < 1e-7);
      }
    }
  }

  void everyKernelPassesAConstant() {
    Samples ones(2000, 1.0f);
    for (double step = 0.1; step <= 16; step *= 1.13) {
      const auto& kernel = sincs().forStep(step);
      QVERIFY(kernel.step >= std::min(step, SincBank::kFastest) - 1e-9);
      QCOMPARE(kernel.taps % 8, 0);
      float left[16], right[16];
      SincBank::run(kernel, {ones.data(), ones.data(), 700.3, step}, 0, 16, left, right);
      for (float v : left) QVERIFY(std::abs(v - 1) < 2e-6f);
    }
    QCOMPARE(&sincs().forStep(40), &sincs().forStep(16));
  }

  // A sine read at a step is the sine of the step times the frequency: closed form.
  void sinesAreWhereArithmeticPutsThem_data() {
    QTest::addColumn<double>("step");
    QTest::addColumn<double>("hz");
    for (double semitones : {-24.0, -12.0, -5.0, -0.34, 0.34, 3.7, 7.0, 12.0, 19.0})
      for (double hz : {110.0, 997.0, 4000.0}) {
        const double step = std::exp2(semitones / 12); // equal temperament
        if (hz * step > 18000) continue;
        QTest::addRow("%g st, %g Hz", semitones, hz) << step << hz;
      }
  }
  void sinesAreWhereArithmeticPutsThem() {
    QFETCH(double, step);
    QFETCH(double, hz);
    const Patch patch = patchOf(makeSound(sine(hz, 4, 48000)), step);
    const auto out = playPatch(patch, 20000);
    double worst = 0;
    for (int i = 4000; i < 20000; ++i) // past the start, where the sine begins out of silence
      worst = std::max(worst, std::abs(double(out.left[std::size_t(i)]) -
                                       0.5 * std::sin(2 * M_PI * hz * step * i / 48000)));
    QVERIFY2(worst < 1e-5, qPrintable(QString::number(worst))); // −94 dB of the sine's 0.5
  }

  // libsoxr at its highest quality, asked for the rate that the step amounts to.
  void agreesWithAnIndependentResampler() {
    Random random(11);
    Samples tones(96000, 0.0f);
    for (int k = 0; k < 40; ++k) {
      const double hz = 60 * std::pow(1.13, k), phase = random.bipolar() * 3;
      for (std::size_t i = 0; i < tones.size(); ++i)
        tones[i] += float(0.015 * std::sin(2 * M_PI * hz * double(i) / 48000 + phase));
    }
    const SoundPtr sound = makeSound(tones);
    for (double toRate : {32000.0, 40000.0, 64000.0, 96000.0}) {
      const auto theirs = *resample(*sound, Hertz(toRate));
      const Patch patch = patchOf(sound, 48000 / toRate);
      const int frames = int(double(sound->frames().value) * toRate / 48000);
      const auto ours = playPatch(patch, frames);
      double difference = 0, signal = 0;
      for (int i = 2000; i < frames - 2000; ++i) {
        const double theirSample = double(theirs->channel(0)[std::size_t(i)]);
        difference += std::pow(double(ours.left[std::size_t(i)]) - theirSample, 2);
        signal += theirSample * theirSample;
      }
      const double db = 10 * std::log10(difference / signal);
      QVERIFY2(db < -80, qPrintable(QString("%1 Hz: %2 dB").arg(toRate).arg(db)));
    }
  }

  void howItIsSplitDoesNotMatter() {
    Patch patch = patchOf(drumLoop(120, 4, 48000), 1.2599);
    patch.envelope = {{100}, 0, {23000, 0.9997}, 0.4, {6900, 0.999}};
    patch.gate = true;
    patch.fadeIn = 33.5;
    patch.fadeOut = 500;
    patch.filters.low = {4000, -3};
    patch.filters.high = {30, 2};
    patch.filters.shape = {{50}, 0, {700, 0.99}, 0.2, {40}};
    const auto whole = playPatch(patch, 60000, 60000, 41000);
    for (int block : {1, 7, 63, 64, 65, 128, 1000}) {
      const auto split = playPatch(patch, 60000, block, 41000);
      QVERIFY2(whole.left == split.left, qPrintable(QString::number(block)));
      QVERIFY(whole.right == split.right);
    }
  }

  void theEnvelopeFollowsItsFormula() {
    Patch patch = patchOf(constant(1, 48000));
    patch.envelope = {{1000}, 0, {15000, 0.999}, 0.25, {3454, 0.998}};
    patch.gate = true;
    const int hold = 20000;
    const auto out = playPatch(patch, 40000, 128, hold);
    for (int i : {0, 10, 499, 998})
      QVERIFY(std::abs(out.left[std::size_t(i)] - float(i + 1) / 1000) < 1e-6f);
    QCOMPARE(out.left[999], 1.0f);
    for (int i : {1, 100, 1000, 5000})
      QVERIFY(std::abs(double(out.left[std::size_t(999 + i)]) -
                       (0.25 + 0.75 * std::pow(0.999, i))) < 1e-5);
    QVERIFY(std::abs(out.left[hold - 2] - 0.25f) < 1e-6f);
    // Let go on its frame, then down by the release's factor a frame, to nothing at its end.
    const double left = std::pow(0.998, 3454);
    for (int i : {0, 1, 50, 1000})
      QVERIFY(std::abs(double(out.left[std::size_t(hold - 1 + i)]) -
                       0.25 * (std::pow(0.998, i + 1) - left) / (1 - left)) < 1e-6);
    QVERIFY(out.left[std::size_t(hold + 3451)] > 0);
    QCOMPARE(out.left[std::size_t(hold + 3453)], 0.0f);
  }

  void anUngatedKeyPlaysToItsEnd() {
    Patch patch = patchOf(constant(0.5f, 5000));
    const auto out = playPatch(patch, 8000, 128, 1000);
    QCOMPARE(out.left[4999], 0.5f);
    QCOMPARE(out.left[5000], 0.0f);
  }

  void aSoundIsAsLongAsItsStepSays() {
    for (double step : {0.5, 0.75, 1.0, 1.1, 2.0, 3.3}) {
      const Patch patch = patchOf(constant(1, 10000), step);
      const auto length = int(std::ceil(10000 / step));
      const auto out = playPatch(patch, length + 500);
      QVERIFY(out.left[std::size_t(length) - 1] != 0.0f);
      for (int i = length; i < length + 500; ++i) QCOMPARE(out.left[std::size_t(i)], 0.0f);
    }
  }

  void bothEndsFadeInAStraightLine() {
    Patch patch = patchOf(constant(1, 10000));
    patch.start = Frames(1000);
    patch.end = Frames(9000);
    patch.fadeIn = 200;
    patch.fadeOut = 400;
    const auto out = playPatch(patch, 9000);
    for (int i : {0, 50, 199}) QVERIFY(std::abs(out.left[std::size_t(i)] - float(i) / 200) < 1e-6f);
    QCOMPARE(out.left[4000], 1.0f);
    for (int i : {7601, 7800, 7999})
      QVERIFY(std::abs(out.left[std::size_t(i)] - float(8000 - i) / 400) < 1e-6f);
  }

  void cuttingOffTakesFiveMilliseconds() {
    const Patch patch = patchOf(constant(1, 48000));
    Voice voice;
    Voice::Start start;
    start.patch = &patch;
    voice.start(start, sincs());
    (void)play(voice, 1000, 100);
    voice.cutOff();
    QVERIFY(voice.ending());
    const auto out = play(voice, 1000, 37);
    for (int i = 1; i < 240; ++i) QVERIFY(out.left[std::size_t(i)] < out.left[std::size_t(i) - 1]);
    QCOMPARE(out.left[240], 0.0f);
    QVERIFY(!voice.sounding());
  }

  void shortSoundsAreSurvived() {
    for (int frames : {1, 2, 7, 31, 33}) {
      for (double step : {0.25, 1.0, 1.5, 9.0}) {
        const auto out = playPatch(patchOf(constant(0.5f, frames), step), 400, 16);
        for (float v : out.left) QVERIFY(std::isfinite(v) && std::abs(v) < 1);
      }
    }
  }

  void panAndGainScaleEachSide() {
    Channels stereo{Samples(2000, 0.5f), Samples(2000, -0.25f)};
    Patch patch = patchOf(std::make_shared<Sound>(stereo, Hertz(48000)));
    patch.gain = 2;
    patch.pan = 0.25f;
    Voice voice;
    Voice::Start start;
    start.patch = &patch;
    start.gain = 0.1f;
    start.pan = 0.25f; // half way to the right: equal power is √2 cos 67.5° on the left
    voice.start(start, sincs());
    const float side = 0.2f * float(std::sqrt(2.0) * std::cos(67.5 * M_PI / 180));
    Samples left(100, 1.0f), right(100, 1.0f);
    const float loudest = voice.render(left.data(), right.data(), 100);
    QVERIFY(std::abs(left[50] - (1 + side * 0.5f)) < 1e-6f); // added to what was there
    QVERIFY(std::abs(right[50] - 0.95f) < 1e-6f);
    QVERIFY(std::abs(loudest - side * 0.5f) < 1e-6f);
  }

  void anEndedVoiceCanBeStruckAgain() {
    const Patch patch = patchOf(constant(0.5f, 300));
    Voice voice;
    for (int time = 0; time < 3; ++time) {
      Voice::Start start;
      start.patch = &patch;
      voice.start(start, sincs());
      QVERIFY(voice.sounding());
      const auto out = play(voice, 500, 128);
      QVERIFY(!voice.sounding());
      QCOMPARE(out.left[299], 0.5f);
    }
    voice.letGo(); // a silent voice takes every call
    voice.cutOff();
    QCOMPARE(voice.render(nullptr, nullptr, 0), 0.0f);
  }
};

QTEST_GUILESS_MAIN(TestVoice)
#include "tst_voice.moc"
