// Levels by third octave, against what is known of sines and of white noise.
#include "listen/part_spectrum.h"
#include "support.h"

#include <QtTest>

using namespace tuvvo;
using namespace tuvvo::test;

class TestSpectra : public QObject {
  Q_OBJECT

  /// Exact centres of third octaves, base ten (IEC 61260-1:2014, 5.4): 1000 Hz times ten to the
  /// tenths.
  static double centreOf(int band) { return 1000 * std::pow(10, (band - 16) / 10.0); }

private slots:
  void aSineIsInItsBand() {
    for (double rate : {44100.0, 48000.0})
      for (int band : {6, 10, 16, 22, 26}) {
        const auto bands = partSpectrum(*makeSound(sine(centreOf(band), 3, rate, 0.5), rate));
        QCOMPARE(int(bands.size()), kSpectrumBands);
        for (int other = 0; other < kSpectrumBands; ++other) {
          const double level = double(bands[std::size_t(other)]);
          // A sine of full scale is 0 dB (AES17), so one of half of it −6.02.
          if (other == band)
            QVERIFY2(std::abs(level + 6.02) < 0.2,
                     qPrintable(QString("%1: %2").arg(band).arg(level)));
          else if (std::abs(other - band) > 1)
            QVERIFY2(level < -40,
                     qPrintable(QString("%1 of %2: %3").arg(other).arg(band).arg(level)));
        }
      }
  }

  void itIsAMeanOverTheWhole() {
    Samples tone = sine(1000, 4, 48000, 0.5);
    const float all = partSpectrum(*makeSound(tone))[16];
    QVERIFY(std::abs(partSpectrum(*makeSound(sine(1000, 1, 48000, 0.5)))[16] - all) < 0.3f);
    std::fill(tone.begin() + tone.size() / 2, tone.end(), 0.0f);
    QVERIFY(std::abs(partSpectrum(*makeSound(tone))[16] - (all - 3.01f)) < 0.2f);
    for (float level : partSpectrum(*makeSound(Samples(48000, 0.0f)))) QCOMPARE(level, -120.0f);
    // The last whole block counts where the sound ends with it; what is left over does not.
    Samples late(2 * 8192, 0.0f);
    const Samples half = sine(1000, 1, 48000, 0.5);
    std::copy_n(half.begin(), 8192, late.begin() + 8192);
    QVERIFY(std::abs(partSpectrum(*makeSound(late))[16] - (all - 3.01f)) < 0.3f);
    late.resize(2 * 8192 - 1);
    QCOMPARE(partSpectrum(*makeSound(late))[16], -120.0f);
    for (float level : partSpectrum(Sound(Channels(2), Hertz(48000)))) QCOMPARE(level, -120.0f);
  }

  // White noise has the same power in every hertz: a decibel more in every third octave.
  void whiteNoiseRisesWithTheWidthOfTheBand() {
    Samples noise(48000 * 20);
    Random random(5);
    for (float& v : noise) v = float(random.bipolar() * 0.5);
    const auto bands = partSpectrum(*makeSound(noise));
    double square = 0;
    for (float v : noise) square += double(v) * double(v);
    const double perHertz =
        10 * std::log10(square / double(noise.size()) * 2 / 24000); // a sine is 0
    for (int band = 8; band < kSpectrumBands; ++band) {
      const double width = centreOf(band) * (std::pow(10, 0.05) - std::pow(10, -0.05));
      const double owed = perHertz + 10 * std::log10(width),
                   level = double(bands[std::size_t(band)]);
      QVERIFY2(std::abs(level - owed) < 1.2,
               qPrintable(QString("%1: %2, owed %3").arg(band).arg(level).arg(owed)));
    }
  }
};

QTEST_GUILESS_MAIN(TestSpectra)
#include "tst_spectra.moc"
