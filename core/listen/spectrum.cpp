#include "listen/spectrum.h"

#include "base/convert.h"
#include "base/wide.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <fftw3.h>
#include <mutex>
#include <numbers>

namespace tuvvo {

// FFTW's planner is the one part of it that is not safe for several threads.
static std::mutex plannerMutex;

namespace {

TUVVO_WIDE void multiply(const float* a, const float* b, float* out, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) out[i] = a[i] * b[i];
}

TUVVO_WIDE void lengths(const float* pairs, float* out, std::size_t count) {
  for (std::size_t k = 0; k < count; ++k)
    out[k] = std::sqrt(pairs[2 * k] * pairs[2 * k] + pairs[2 * k + 1] * pairs[2 * k + 1]);
}

/// The spectrum of real samples from that of the same samples taken for half as many complex ones:
/// what is even and what is odd in it are the spectra of every second sample (Press et al.,
/// Numerical Recipes, 12.3). Four bins from the bottom and four from the top at once: the compiler
/// does not turn the latter round by itself.
/// @param turns  a turn by −2π k / size for k = 0 to size / 4, as pairs
TUVVO_WIDE void unfold(const float* half, const float* turns, float* out, std::size_t halfSize) {
  using Four = float __attribute__((vector_size(32)));
  const auto load = [](Four& to, const float* from) { std::memcpy(&to, from, sizeof to); };
  const Four mirror{1, -1, 1, -1, 1, -1, 1, -1};
  out[0] = half[0] + half[1];
  out[1] = out[2 * halfSize + 1] = 0;
  out[2 * halfSize] = half[0] - half[1];
  std::size_t k = 1;
  for (; 2 * k + 6 < halfSize; k += 4) {
    const std::size_t top = 2 * (halfSize - k - 3);
    Four low, high, turn;
    load(low, half + 2 * k);
    load(high, half + top);
    load(turn, turns + 2 * k);
    const Four turned = __builtin_shufflevector(high, high, 6, 7, 4, 5, 2, 3, 0, 1) * mirror;
    const Four even = 0.5f * (low + turned), apart = 0.5f * (low - turned);
    const Four odd = __builtin_shufflevector(apart, apart, 1, 0, 3, 2, 5, 4, 7, 6) * mirror;
    // The product of complex values: (a, b) (c, d) = (a c − b d, a d + b c).
    const Four swapped = __builtin_shufflevector(odd, odd, 1, 0, 3, 2, 5, 4, 7, 6) * mirror;
    const Four part = __builtin_shufflevector(turn, turn, 0, 0, 2, 2, 4, 4, 6, 6) * odd -
                      __builtin_shufflevector(turn, turn, 1, 1, 3, 3, 5, 5, 7, 7) * swapped;
    const Four lower = even + part, upper = (even - part) * mirror;
    const Four back = __builtin_shufflevector(upper, upper, 6, 7, 4, 5, 2, 3, 0, 1);
    std::memcpy(out + 2 * k, &lower, sizeof lower);
    std::memcpy(out + top, &back, sizeof back);
  }
  for (; k <= halfSize / 2; ++k) {
    const std::size_t low = 2 * k, high = 2 * (halfSize - k);
    const float evenRe = 0.5f * (half[low] + half[high]),
                evenIm = 0.5f * (half[low + 1] - half[high + 1]),
                oddRe = 0.5f * (half[low + 1] + half[high + 1]),
                oddIm = 0.5f * (half[high] - half[low]);
    const float re = turns[low] * oddRe - turns[low + 1] * oddIm,
                im = turns[low] * oddIm + turns[low + 1] * oddRe;
    out[low] = evenRe + re;
    out[low + 1] = evenIm + im;
    out[high] = evenRe - re;
    out[high + 1] = im - evenIm;
  }
}

} // namespace

Fft::Fft(int size) : m_size(size) {
  std::lock_guard lock(plannerMutex);
  m_in = fftwf_alloc_real(std::size_t(size));
  m_half = fftwf_alloc_real(std::size_t(size));
  m_out = reinterpret_cast<std::complex<float>*>(fftwf_alloc_complex(std::size_t(size / 2 + 1)));
  // FFTW is faster with so many complex values than with twice as many real ones (decision 024).
  m_plan = fftwf_plan_dft_1d(size / 2, reinterpret_cast<fftwf_complex*>(m_in),
                             reinterpret_cast<fftwf_complex*>(m_half), FFTW_FORWARD, FFTW_ESTIMATE);
  for (int k = 0; k <= size / 4; ++k) {
    m_turns.push_back(float(std::cos(2 * std::numbers::pi * k / size)));
    m_turns.push_back(float(-std::sin(2 * std::numbers::pi * k / size)));
  }
}

Fft::~Fft() {
  std::lock_guard lock(plannerMutex);
  fftwf_destroy_plan(static_cast<fftwf_plan>(m_plan));
  fftwf_free(m_in);
  fftwf_free(m_half);
  fftwf_free(m_out);
}

std::span<const std::complex<float>> Fft::run() {
  fftwf_execute(static_cast<fftwf_plan>(m_plan));
  unfold(m_half, m_turns.data(), reinterpret_cast<float*>(m_out), std::size_t(m_size / 2));
  return {m_out, std::size_t(m_size / 2 + 1)};
}

InverseFft::InverseFft(int size) : m_size(size) {
  std::lock_guard lock(plannerMutex);
  auto* in = fftwf_alloc_complex(std::size_t(size / 2 + 1));
  m_in = reinterpret_cast<std::complex<float>*>(in);
  m_out = fftwf_alloc_real(std::size_t(size));
  m_plan = fftwf_plan_dft_c2r_1d(size, in, m_out, FFTW_ESTIMATE);
}

InverseFft::~InverseFft() {
  std::lock_guard lock(plannerMutex);
  fftwf_destroy_plan(static_cast<fftwf_plan>(m_plan));
  fftwf_free(m_in);
  fftwf_free(m_out);
}

std::span<const float> InverseFft::run() {
  fftwf_execute(static_cast<fftwf_plan>(m_plan));
  return {m_out, std::size_t(m_size)};
}

void forEachFrame(std::span<const float> samples, int size, int hop,
                  const std::function<void(int, std::span<const float>)>& take, int wanted) {
  const auto count = std::int64_t(samples.size());
  const int frames = int((count + hop - 1) / hop);
  std::vector<float> window(static_cast<std::size_t>(size));
  for (int i = 0; i < size; ++i)
    window[std::size_t(i)] = float(0.5 - 0.5 * std::cos(2.0 * std::numbers::pi * (i + 0.5) / size));
  Fft fft(size);
  std::vector<float> magnitudes(std::size_t(wanted > 0 ? wanted : size / 2 + 1));
  for (int frame = 0; frame < frames; ++frame) {
    const std::int64_t begin = std::int64_t(frame) * hop - size / 2;
    float* input = fft.input().data();
    if (begin >= 0 && begin + size <= count) {
      multiply(samples.data() + begin, window.data(), input, std::size_t(size));
    } else {
      for (int i = 0; i < size; ++i) {
        const std::int64_t at = begin + i;
        input[i] = at >= 0 && at < count ? samples[std::size_t(at)] * window[std::size_t(i)] : 0.0f;
      }
    }
    const auto* bins = reinterpret_cast<const float*>(fft.run().data());
    lengths(bins, magnitudes.data(), magnitudes.size());
    take(frame, magnitudes);
  }
}

BandSummer::BandSummer(const std::vector<double>& edgesHz, int fftSize, double rate) {
  const int bins = fftSize / 2 + 1;
  for (std::size_t b = 0; b + 2 < edgesHz.size(); ++b) {
    const double low = edgesHz[b] * fftSize / rate, mid = edgesHz[b + 1] * fftSize / rate,
                 high = edgesHz[b + 2] * fftSize / rate;
    Band band{std::clamp(toWhole<int>(std::ceil(low)), 0, bins - 1), {}};
    float total = 0;
    for (int k = band.first; k < bins && k < high; ++k) {
      const double w = k < mid ? (mid > low ? (k - low) / (mid - low) : 1.0)
                               : (high > mid ? (high - k) / (high - mid) : 1.0);
      band.weights.push_back(float(std::max(0.0, w)));
      total += band.weights.back();
    }
    if (total <= 0) { // narrower than a bin: the nearest one
      band.first = std::clamp(toNearest<int>(mid), 0, bins - 1);
      band.weights = {1.0f};
      total = 1;
    }
    for (float& w : band.weights) w /= total;
    m_bands.push_back(std::move(band));
  }
}

/// The sum of products, eight side by side, so that the compiler can take as many at once.
TUVVO_WIDE static float product(const float* a, const float* b, std::size_t count) {
  std::array<float, 8> sums{};
  std::size_t k = 0;
  for (; k + 8 <= count; k += 8)
    for (std::size_t lane = 0; lane < 8; ++lane) sums[lane] += a[k + lane] * b[k + lane];
  for (; k < count; ++k) sums[0] += a[k] * b[k];
  return ((sums[0] + sums[1]) + (sums[2] + sums[3])) + ((sums[4] + sums[5]) + (sums[6] + sums[7]));
}

void BandSummer::sum(std::span<const float> magnitudes, std::span<float> out) const {
  for (std::size_t b = 0; b < m_bands.size(); ++b)
    out[b] = product(m_bands[b].weights.data(), magnitudes.data() + m_bands[b].first,
                     m_bands[b].weights.size());
}

float medianOf(std::span<float> values) {
  if (values.empty()) return 0.0f;
  const auto middle = values.begin() + std::ptrdiff_t(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  return *middle;
}

} // namespace tuvvo
