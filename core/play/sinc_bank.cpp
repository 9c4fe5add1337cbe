#include "play/sinc_bank.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kStepsPerOctave = 4;
constexpr int kCrossings = 32;
constexpr double kBeta = 0.1102 * (100 - 8.7); // Kaiser's formula for 100 dB

double besselI0(double x) {
  double sum = 1, term = 1;
  for (int k = 1; k < 60; ++k) {
    term *= (x / (2 * k)) * (x / (2 * k));
    sum += term;
    if (term < 1e-12 * sum) break;
  }
  return sum;
}

double windowedSinc(double x, double half, double cutoff) {
  if (std::abs(x) >= half) return 0;
  const double t = x / half;
  const double window = besselI0(kBeta * std::sqrt(1 - t * t)) / besselI0(kBeta);
  const double a = M_PI * cutoff * x;
  return (std::abs(a) < 1e-9 ? 1.0 : std::sin(a) / a) * cutoff * window;
}

SincBank::Kernel makeKernel(double step) {
  SincBank::Kernel kernel;
  kernel.taps = (int(std::ceil(kCrossings * step)) + 7) / 8 * 8;
  const double half = kernel.taps / 2.0, cutoff = 1.0 / step;
  const auto taps = std::size_t(kernel.taps);
  std::vector<double> rows((SincBank::kPhases + 1) * taps);
  for (int phase = 0; phase <= SincBank::kPhases; ++phase) {
    double sum = 0;
    for (std::size_t k = 0; k < taps; ++k) {
      const double x = double(k) - (half - 1) - double(phase) / SincBank::kPhases;
      rows[std::size_t(phase) * taps + k] = windowedSinc(x, half, cutoff);
      sum += rows[std::size_t(phase) * taps + k];
    }
    // Every phase passes a constant unchanged, so that the table adds no tone of its own.
    for (std::size_t k = 0; k < taps; ++k) rows[std::size_t(phase) * taps + k] /= sum;
  }
  kernel.table.resize(std::size_t(SincBank::kPhases) * taps * 2);
  for (std::size_t phase = 0; phase < SincBank::kPhases; ++phase)
    for (std::size_t k = 0; k < taps; ++k) {
      const double here = rows[phase * taps + k], next = rows[(phase + 1) * taps + k];
      kernel.table[phase * taps * 2 + k] = float(here);
      kernel.table[phase * taps * 2 + taps + k] = float(next - here);
    }
  return kernel;
}

// Wider vectors where the processor has them. Sanitized builds start before the choice can be made.
#if defined(__x86_64__) && !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
#define TUVVO_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define TUVVO_WIDE
#endif

TUVVO_WIDE float weigh(const float* values, const float* differences, float between,
                       const float* samples, int taps) {
  float sum = 0;
#pragma omp simd reduction(+ : sum)
  for (int k = 0; k < taps; ++k) sum += (values[k] + between * differences[k]) * samples[k];
  return sum;
}

struct Two {
  float left, right;
};

TUVVO_WIDE Two weighTwo(const float* values, const float* differences, float between,
                        const float* left, const float* right, int taps) {
  float l = 0, r = 0;
#pragma omp simd reduction(+ : l, r)
  for (int k = 0; k < taps; ++k) {
    const float weight = values[k] + between * differences[k];
    l += weight * left[k];
    r += weight * right[k];
  }
  return {l, r};
}

struct Place {
  const float* values;
  const float* differences;
  float between;
};

inline Place placeIn(const SincBank::Kernel& kernel, double fraction) {
  const double phase = fraction * SincBank::kPhases;
  const auto whole = std::min<std::size_t>(SincBank::kPhases - 1, std::size_t(phase));
  const float* row = kernel.table.data() + whole * std::size_t(kernel.taps) * 2;
  return {row, row + kernel.taps, float(phase - double(whole))};
}

} // namespace

SincBank::SincBank() {
  for (double octave = 0; octave <= std::log2(kFastest) + 1e-9; octave += 1 / kStepsPerOctave)
    m_kernels.push_back(makeKernel(std::exp2(octave)));
}

const SincBank& SincBank::shared() {
  static const SincBank bank;
  return bank;
}

const SincBank::Kernel& SincBank::forStep(double step) const {
  if (step <= 1.0) return m_kernels.front();
  const auto index = std::size_t(std::ceil(std::log2(step) * kStepsPerOctave - 1e-9));
  return m_kernels[std::min(index, m_kernels.size() - 1)];
}

float SincBank::at(const Kernel& kernel, const float* samples, double fraction) {
  const Place place = placeIn(kernel, fraction);
  return weigh(place.values, place.differences, place.between, samples, kernel.taps);
}

void SincBank::at(const Kernel& kernel, const float* left, const float* right, double fraction,
                  float& outLeft, float& outRight) {
  const Place place = placeIn(kernel, fraction);
  const Two two =
      weighTwo(place.values, place.differences, place.between, left, right, kernel.taps);
  outLeft = two.left;
  outRight = two.right;
}

} // namespace tuvvo
