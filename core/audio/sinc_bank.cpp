#include "audio/sinc_bank.h"

#include "base/convert.h"
#include "base/wide.h"

#include <algorithm>
#include <cmath>
#include <cstdint>

namespace tuvvo {

namespace {

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
  static const double highest = besselI0(kBeta);
  const double window = besselI0(kBeta * std::sqrt(1 - t * t)) / highest;
  const double a = M_PI * cutoff * x;
  return (std::abs(a) < 1e-9 ? 1.0 : std::sin(a) / a) * cutoff * window;
}

void fill(SincBank::Kernel& kernel) {
  const double half = kernel.taps / 2.0, cutoff = 1.0 / kernel.step;
  const auto width = std::size_t(kernel.taps);
  kernel.table.resize((SincBank::kPhases + 1) * width);
  std::vector<double> row(width);
  for (int phase = 0; phase <= SincBank::kPhases; ++phase) {
    double sum = 0;
    for (std::size_t k = 0; k < width; ++k) {
      const double x = double(k) - (half - 1) - double(phase) / SincBank::kPhases;
      row[k] = windowedSinc(x, half, cutoff);
      sum += row[k];
    }
    // Every phase passes a constant unchanged, so that the table adds no tone of its own.
    for (std::size_t k = 0; k < width; ++k)
      kernel.table[std::size_t(phase) * width + k] = float(row[k] / sum);
  }
}

// Wider vectors where the processor has them.
using Lanes [[gnu::vector_size(32)]] = float;
using LooseLanes [[gnu::vector_size(32), gnu::aligned(4), gnu::may_alias]] = float;
using FourLanes [[gnu::vector_size(16)]] = float;
#define lanesAt(at) (*reinterpret_cast<const LooseLanes*>(at))
#define TUVVO_HALVES(v)                                                                            \
  (FourLanes{(v)[0], (v)[1], (v)[2], (v)[3]} + FourLanes{(v)[4], (v)[5], (v)[6], (v)[7]})

/// @tparam Taps  known beforehand so that the loops unroll; 0 takes the kernel's own number
template <int Taps>
[[gnu::always_inline]] inline void runBody(const SincBank::Kernel& kernel,
                                           const SincBank::Track& track, std::int64_t first,
                                           int frames, float* outLeft, float* outRight) {
  const int taps = Taps > 0 ? Taps : kernel.taps;
  const float* table = kernel.table.data();
  const double from = track.from, step = track.step;
  const bool mono = track.left == track.right;
  for (int i = 0; i < frames; ++i) {
    const double place = from + double(first + i) * step;
    const auto at = toWhole<std::int64_t>(place);
    const double phase = (place - double(at)) * SincBank::kPhases;
    const int index = toWholeIn(phase, 0, SincBank::kPhases - 1);
    const float between = float(phase - index);
    const float* here = table + std::size_t(index) * std::size_t(taps);
    const float* next = here + taps;
    const float* l = track.left + at - (taps / 2 - 1);
    const float* r = track.right + at - (taps / 2 - 1);
    // Eight lanes side by side, added up in pairs: short chains, and the same sum on every machine.
    Lanes sumLeft = {}, sumRight = {};
    if (mono) {
      for (int k = 0; k < taps; k += 8) {
        const Lanes weight = lanesAt(here + k);
        sumLeft += (weight + between * (lanesAt(next + k) - weight)) * lanesAt(l + k);
      }
      sumRight = sumLeft;
    } else {
      for (int k = 0; k < taps; k += 8) {
        const Lanes low = lanesAt(here + k);
        const Lanes weight = low + between * (lanesAt(next + k) - low);
        sumLeft += weight * lanesAt(l + k);
        sumRight += weight * lanesAt(r + k);
      }
    }
    const FourLanes a = TUVVO_HALVES(sumLeft), b = TUVVO_HALVES(sumRight);
    const FourLanes pairs =
        __builtin_shufflevector(a, b, 0, 1, 4, 5) + __builtin_shufflevector(a, b, 2, 3, 6, 7);
    outLeft[i] = pairs[0] + pairs[1];
    outRight[i] = pairs[2] + pairs[3];
  }
}

TUVVO_WIDE void runAny(const SincBank::Kernel& kernel, const SincBank::Track& track,
                       std::int64_t first, int frames, float* outLeft, float* outRight) {
  switch (kernel.taps) { // up to an octave up is what is played most
  case 32:
    return runBody<32>(kernel, track, first, frames, outLeft, outRight);
  case 40:
    return runBody<40>(kernel, track, first, frames, outLeft, outRight);
  case 48:
    return runBody<48>(kernel, track, first, frames, outLeft, outRight);
  case 56:
    return runBody<56>(kernel, track, first, frames, outLeft, outRight);
  case 64:
    return runBody<64>(kernel, track, first, frames, outLeft, outRight);
  default:
    return runBody<0>(kernel, track, first, frames, outLeft, outRight);
  }
}

} // namespace

SincBank::SincBank(Make make) {
  // Eight taps apart over the first octave, sixteen over the second and so on.
  for (int taps = kCrossings, apart = 8; taps <= toWhole<int>(kCrossings * kFastest);
       taps += apart) {
    Kernel& kernel = m_kernels.emplace_back();
    kernel.taps = taps;
    kernel.step = double(taps) / kCrossings;
    if (make == Make::Now) fill(kernel);
    if (taps >= kCrossings * apart / 4) apart *= 2;
  }
}

const SincBank::Kernel& SincBank::forStep(double step) const {
  auto kernel = m_kernels.begin();
  while (kernel + 1 != m_kernels.end() && step > kernel->step + 1e-9) ++kernel;
  if (kernel->table.empty()) fill(*kernel); // of a bank that is made as needed
  return *kernel;
}

void SincBank::run(const Kernel& kernel, const Track& track, std::int64_t first, int frames,
                   float* outLeft, float* outRight) {
  runAny(kernel, track, first, frames, outLeft, outRight);
}

} // namespace tuvvo
