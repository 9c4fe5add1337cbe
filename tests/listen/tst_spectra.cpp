// Transforms and what is reckoned in loops of several values, against their definitions; levels by
// third octave, against what is known of sines and of white noise.
#include "listen/attention.h"
#include "listen/harmony.h"
#include "listen/part_spectrum.h"
#include "listen/recurrent.h"
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
  // The discrete Fourier transform by its definition, for sizes with an odd half as well.
  void aTransformIsTheSumThatItStandsFor() {
    for (int size : {16, 18, 20, 22, 36, 64, 250, 512, 2048}) {
      Fft fft(size);
      Random random{std::uint64_t(size)};
      std::vector<float> samples;
      for (int i = 0; i < size; ++i) samples.push_back(float(random.bipolar()));
      std::copy(samples.begin(), samples.end(), fft.input().begin());
      const auto bins = fft.run();
      QCOMPARE(int(bins.size()), size / 2 + 1);
      for (int k = 0; k <= size / 2; ++k) {
        std::complex<double> owed = 0;
        for (int i = 0; i < size; ++i)
          owed += double(samples[std::size_t(i)]) *
                  std::polar(1.0, -2 * M_PI * double(std::int64_t(k) * i % size) / size);
        const double off = std::abs(std::complex<double>(bins[std::size_t(k)]) - owed);
        QVERIFY2(off < 1e-6 * size,
                 qPrintable(QString("%1, bin %2: %3").arg(size).arg(k).arg(off)));
      }
    }
  }

  // Gated recurrent units as they are defined (Cho et al. 2014), with the mathematical functions of
  // the standard library; also far outside what they usually are given.
  void gatesAreTheFunctionsOfTheirDefinition() {
    constexpr std::size_t kSize = 13;
    for (double reach : {0.1, 1.0, 8.0, 100.0, 1e6}) {
      Random random(7);
      std::array<float, 3 * kSize> in{}, own{};
      std::array<float, kSize> state{};
      for (float& v : in) v = float(random.bipolar() * reach);
      for (float& v : own) v = float(random.bipolar() * reach);
      for (float& v : state) v = float(random.bipolar());
      const auto given = in;
      const auto before = state;
      turnGates(in.data(), own.data(), kSize, state.data());
      const auto squash = [](double v) { return 1 / (1 + std::exp(-v)); };
      for (std::size_t s = 0; s < kSize; ++s) {
        const auto sum = [&](std::size_t gate, double share) {
          return double(given[gate * kSize + s]) + share * double(own[gate * kSize + s]);
        };
        const double update = squash(sum(1, 1)), fresh = std::tanh(sum(2, squash(sum(0, 1))));
        const double owed = (1 - update) * fresh + update * double(before[s]);
        QVERIFY2(std::abs(double(state[s]) - owed) < 2e-6,
                 qPrintable(QString("%1 of %2: %3, owed %4")
                                .arg(s)
                                .arg(reach)
                                .arg(double(state[s]))
                                .arg(owed)));
      }
    }
  }

  // Attention as it is defined (Vaswani et al. 2017, 3.2), reckoned in doubles; those that are too
  // far away in the row count for nothing.
  void attentionIsTheSumOfItsDefinition() {
    constexpr std::size_t kInputs = 5, kHeads = 2, kSize = 3, kOutput = kHeads * kSize, kCount = 9,
                          kReach = 3;
    Random random(11);
    float weights[kInputs][3 * kOutput], bias[3 * kOutput];
    for (auto& row : weights)
      for (float& v : row) v = float(random.bipolar());
    for (float& v : bias) v = float(random.bipolar());
    std::array<std::array<float, kInputs>, kCount> things{};
    Attention<kInputs, kHeads, kSize> attention(weights, bias, kReach);
    for (auto& thing : things) {
      for (float& v : thing) v = float(3 * random.bipolar());
      attention.add(thing.data());
    }
    const auto says = [&](std::size_t thing, std::size_t column) {
      double sum = double(bias[column]);
      for (std::size_t i = 0; i < kInputs; ++i)
        sum += double(things[thing][i]) * double(weights[i][column]);
      return sum;
    };
    for (std::size_t thing = 0; thing < kCount; ++thing) {
      const auto seen = attention.seenBy(thing);
      for (std::size_t o = 0; o < kOutput; ++o) {
        double above = 0, below = 0;
        for (std::size_t i = 0; i < kCount; ++i) {
          if (std::max(i, thing) - std::min(i, thing) > kReach) continue;
          double product = 0;
          for (std::size_t s = o / kSize * kSize; s < (o / kSize + 1) * kSize; ++s)
            product += says(thing, s) * says(i, kOutput + s);
          const double share = std::exp(product / std::sqrt(double(kSize)));
          above += share * says(i, 2 * kOutput + o);
          below += share;
        }
        QVERIFY2(std::abs(double(seen[o]) - above / below) < 1e-4,
                 qPrintable(QString("%1, value %2: %3, owed %4")
                                .arg(thing)
                                .arg(o)
                                .arg(double(seen[o]))
                                .arg(above / below)));
      }
    }
  }

  // A sound of harmonics that each are .85 of the one below is its own note and no other, wherever
  // the top of it leaves the bins.
  void aToneIsItsNote() {
    const NoteFinder finder;
    for (int note : {0, 1, 7, 24, 40, 55}) {
      std::vector<float> bins(std::size_t(Harmony::kBins), 0.0f);
      for (int harmonic = 1; harmonic <= 12; ++harmonic) {
        const double centre = (note + 12 * std::log2(harmonic)) * Harmony::kPerSemitone;
        for (int b = 0; b < Harmony::kBins; ++b) {
          const double off = (b - centre) / 0.6; // thirds of a semitone
          bins[std::size_t(b)] += float(std::pow(0.85, harmonic - 1) * std::exp(-0.5 * off * off));
        }
      }
      const Notes found = finder.find(bins);
      for (int other = 0; other < Harmony::kNotes; ++other)
        if (other == note)
          QVERIFY2(std::abs(found[std::size_t(other)] - 1) < 0.1f,
                   qPrintable(QString("%1: %2").arg(note).arg(double(found[std::size_t(other)]))));
        else
          QVERIFY2(found[std::size_t(other)] < 0.1f,
                   qPrintable(QString("%1 in %2: %3")
                                  .arg(other)
                                  .arg(note)
                                  .arg(double(found[std::size_t(other)]))));
    }
  }

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
