#include "listen/spectrum.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>
#include <fftw3.h>
#include <mutex>
#include <numbers>

namespace tuvvo {

// FFTW's planner is the one part of it that is not safe for several threads.
static std::mutex plannerMutex;

Fft::Fft(int size) : m_size(size) {
  std::lock_guard lock(plannerMutex);
  m_in = fftwf_alloc_real(std::size_t(size));
  auto* out = fftwf_alloc_complex(std::size_t(size / 2 + 1));
  m_out = reinterpret_cast<std::complex<float>*>(out);
  m_plan = fftwf_plan_dft_r2c_1d(size, m_in, out, FFTW_ESTIMATE);
}

Fft::~Fft() {
  std::lock_guard lock(plannerMutex);
  fftwf_destroy_plan(static_cast<fftwf_plan>(m_plan));
  fftwf_free(m_in);
  fftwf_free(m_out);
}

std::span<const std::complex<float>> Fft::run() {
  fftwf_execute(static_cast<fftwf_plan>(m_plan));
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

namespace {

// The two loops that every frame runs through, also built for wider registers and chosen at start:
// each value is reckoned for itself, so that they agree to the last bit. (Not under sanitizers,
// which cannot choose that early.)
#if defined(__x86_64__) && !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
#define TUVVO_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define TUVVO_WIDE
#endif

TUVVO_WIDE void multiply(const float* a, const float* b, float* out, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) out[i] = a[i] * b[i];
}

TUVVO_WIDE void lengths(const float* pairs, float* out, std::size_t count) {
  for (std::size_t k = 0; k < count; ++k)
    out[k] = std::sqrt(pairs[2 * k] * pairs[2 * k] + pairs[2 * k + 1] * pairs[2 * k + 1]);
}

} // namespace

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

void BandSummer::sum(std::span<const float> magnitudes, std::span<float> out) const {
  for (std::size_t b = 0; b < m_bands.size(); ++b) {
    const auto& band = m_bands[b];
    // Four sums side by side, so that the compiler can take four at once.
    const float* values = magnitudes.data() + band.first;
    std::array<float, 4> sums{};
    std::size_t k = 0;
    for (; k + 4 <= band.weights.size(); k += 4)
      for (std::size_t lane = 0; lane < 4; ++lane)
        sums[lane] += band.weights[k + lane] * values[k + lane];
    for (; k < band.weights.size(); ++k) sums[0] += band.weights[k] * values[k];
    out[b] = sums[0] + sums[1] + sums[2] + sums[3];
  }
}

float medianOf(std::span<float> values) {
  if (values.empty()) return 0.0f;
  const auto middle = values.begin() + std::ptrdiff_t(values.size() / 2);
  std::nth_element(values.begin(), middle, values.end());
  return *middle;
}

} // namespace tuvvo
