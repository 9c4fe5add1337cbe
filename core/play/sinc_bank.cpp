#include "play/sinc_bank.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

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

using Lanes [[gnu::vector_size(32)]] = float;
using LooseLanes [[gnu::vector_size(32), gnu::aligned(4), gnu::may_alias]] = float;
#define lanesAt(at) (*reinterpret_cast<const LooseLanes*>(at))
#define TUVVO_SUM(v)                                                                               \
  (((v)[0] + (v)[4]) + ((v)[2] + (v)[6])) + (((v)[1] + (v)[5]) + ((v)[3] + (v)[7]))

/// @tparam Taps  known beforehand so that the loops unroll; 0 takes the kernel's own number
template <int Taps>
[[gnu::always_inline]] inline void runBody(const float* table, int anyTaps, const float* left,
                                           const float* right, double place, double step,
                                           int frames, float* outLeft, float* outRight) {
  const int taps = Taps > 0 ? Taps : anyTaps;
  for (int i = 0; i < frames; ++i, place += step) {
    const auto whole = std::int64_t(place);
    const double phase = (place - double(whole)) * SincBank::kPhases;
    const int index = std::min(SincBank::kPhases - 1, int(phase));
    const float between = float(phase - index);
    const float* values = table + std::size_t(index) * std::size_t(taps) * 2;
    const float* differences = values + taps;
    const float* l = left + whole - (taps / 2 - 1);
    const float* r = right + whole - (taps / 2 - 1);
    // Eight lanes side by side, added up in pairs: short chains, and the same sum on every machine.
    Lanes sumLeft = {}, sumRight = {};
    if (left == right) {
      for (int k = 0; k < taps; k += 8)
        sumLeft += (lanesAt(values + k) + between * lanesAt(differences + k)) * lanesAt(l + k);
      sumRight = sumLeft;
    } else {
      for (int k = 0; k < taps; k += 8) {
        const Lanes weight = lanesAt(values + k) + between * lanesAt(differences + k);
        sumLeft += weight * lanesAt(l + k);
        sumRight += weight * lanesAt(r + k);
      }
    }
    outLeft[i] = TUVVO_SUM(sumLeft);
    outRight[i] = TUVVO_SUM(sumRight);
  }
}

TUVVO_WIDE void runAny(const float* table, int taps, const float* left, const float* right,
                       double place, double step, int frames, float* outLeft, float* outRight) {
  switch (taps) { // up to an octave up is what is played most
  case 32:
    return runBody<32>(table, taps, left, right, place, step, frames, outLeft, outRight);
  case 40:
    return runBody<40>(table, taps, left, right, place, step, frames, outLeft, outRight);
  case 48:
    return runBody<48>(table, taps, left, right, place, step, frames, outLeft, outRight);
  case 56:
    return runBody<56>(table, taps, left, right, place, step, frames, outLeft, outRight);
  case 64:
    return runBody<64>(table, taps, left, right, place, step, frames, outLeft, outRight);
  default:
    return runBody<0>(table, taps, left, right, place, step, frames, outLeft, outRight);
  }
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

void SincBank::run(const Kernel& kernel, const float* left, const float* right, double place,
                   double step, int frames, float* outLeft, float* outRight) {
  runAny(kernel.table.data(), kernel.taps, left, right, place, step, frames, outLeft, outRight);
}

} // namespace tuvvo
