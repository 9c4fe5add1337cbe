#include "listen/pitch.h"

#include "listen/spectrum.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kRate = 22050, kHighest = 2000, kLowest = 27;
constexpr std::size_t kMost = 8192;
constexpr double kThreshold = 0.15;

/// Σ x[i] x[i + lag] over the first half against all lags up to it, by the transform.
std::vector<double> products(std::span<const float> x, std::size_t window) {
  int size = 1024;
  while (std::size_t(size) < x.size() + window) size *= 2;
  Fft fft(size);
  const auto load = [&](std::span<const float> values) {
    auto input = fft.input();
    std::fill(input.begin(), input.end(), 0.0f);
    std::copy(values.begin(), values.end(), input.begin());
    const auto bins = fft.run();
    return std::vector<std::complex<float>>(bins.begin(), bins.end());
  };
  const auto part = load(x.first(window)), whole = load(x);
  // The inverse by a forward transform of the real and imaginary parts: both are needed, since the
  // product is not even; x(−n) of a real sequence comes from the conjugate.
  auto input = fft.input();
  std::vector<float> real(static_cast<std::size_t>(size)), imaginary(real);
  for (std::size_t k = 0; k < part.size(); ++k) {
    const auto v = std::conj(part[k]) * whole[k];
    const std::size_t mirror = k == 0 ? 0 : std::size_t(size) - k;
    real[k] = v.real();
    imaginary[k] = v.imag();
    if (mirror != k && k > 0) {
      real[mirror] = v.real();
      imaginary[mirror] = -v.imag();
    }
  }
  std::copy(real.begin(), real.end(), input.begin());
  const auto even = fft.run();
  std::vector<double> out(window);
  for (std::size_t lag = 0; lag < window; ++lag) out[lag] = double(even[lag].real());
  std::copy(imaginary.begin(), imaginary.end(), input.begin());
  const auto odd = fft.run();
  for (std::size_t lag = 0; lag < window; ++lag)
    out[lag] = (out[lag] + double(odd[lag].imag())) / size;
  return out;
}

} // namespace

std::optional<PitchHeard> hearPitch(std::span<const float> mono) {
  const auto x = mono.first(std::min(mono.size(), kMost));
  const std::size_t window = x.size() / 2;
  if (double(x.size()) < 0.05 * kRate) return std::nullopt;
  std::vector<double> squares(x.size() + 1, 0.0);
  for (std::size_t i = 0; i < x.size(); ++i)
    squares[i + 1] = squares[i] + double(x[i]) * double(x[i]);
  if (squares.back() / double(x.size()) < 1e-9) return std::nullopt;
  const auto product = products(x, window);
  // Step 3: the difference over its mean at all shorter lags.
  std::vector<double> d(window, 1.0);
  double sum = 0;
  for (std::size_t lag = 1; lag < window; ++lag) {
    const double difference =
        std::max(0.0, squares[window] + squares[lag + window] - squares[lag] - 2 * product[lag]);
    sum += difference;
    d[lag] = sum > 0 ? difference * double(lag) / sum : 1.0;
  }
  const auto first = std::size_t(kRate / kHighest),
             last = std::min(window - 1, std::size_t(kRate / kLowest));
  // Step 4: the first dip under the threshold, followed down to its bottom.
  std::size_t at = first;
  while (at < last && d[at] >= kThreshold) ++at;
  if (at >= last) return std::nullopt;
  while (at + 1 < last && d[at + 1] < d[at]) ++at;
  // Step 5: a parabola through the bottom.
  const double a = d[at - 1], b = d[at], c = d[at + 1], bend = a - 2 * b + c;
  const double lag = double(at) + (bend > 0 ? std::clamp(0.5 * (a - c) / bend, -0.5, 0.5) : 0);
  return PitchHeard{Hertz(kRate / lag), 1 - b};
}

} // namespace tuvvo
