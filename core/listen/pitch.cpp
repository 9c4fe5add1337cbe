#include "listen/pitch.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kPitchRate = 11025, kHighest = 2000, kLowest = 27;
constexpr std::size_t kMost = 2048;
constexpr double kThreshold = 0.15;

/// The bottom of the parabola through a dip and its neighbours.
double bottomNear(const std::vector<double>& d, std::size_t at) {
  const double a = d[at - 1], b = d[at], c = d[at + 1], bend = a - 2 * b + c;
  return double(at) + (bend > 0 ? std::clamp(0.5 * (a - c) / bend, -0.5, 0.5) : 0);
}

} // namespace

PitchFinder::PitchFinder() : m_fft(int(2 * kMost)) {}

/// Σ x[i] x[i + lag] over the first half against all lags up to it, by the transform.
void PitchFinder::correlate(std::span<const float> x, std::size_t window,
                            std::vector<double>& out) {
  const auto load = [&](std::span<const float> values) {
    auto input = m_fft.input();
    std::fill(std::copy(values.begin(), values.end(), input.begin()), input.end(), 0.0f);
    return m_fft.run();
  };
  const auto part = load(x.first(window));
  m_part.assign(part.begin(), part.end());
  const auto whole = load(x);
  // The inverse by a forward transform: of the sum of the product's real (even) and imaginary (odd)
  // parts, the transform's real part is the one sum and its imaginary part the other.
  for (std::size_t k = 0; k < m_part.size(); ++k) m_part[k] = std::conj(m_part[k]) * whole[k];
  auto input = m_fft.input();
  for (std::size_t k = 0; k < m_part.size(); ++k) {
    input[k] = m_part[k].real() + m_part[k].imag();
    if (k > 0 && k + 1 < m_part.size())
      input[input.size() - k] = m_part[k].real() - m_part[k].imag();
  }
  const auto sums = m_fft.run();
  out.resize(window);
  for (std::size_t lag = 0; lag < window; ++lag)
    out[lag] = double(sums[lag].real() + sums[lag].imag()) / m_fft.size();
}

std::optional<PitchHeard> PitchFinder::find(std::span<const float> mono) {
  std::vector<float> x;
  for (std::size_t i = 1; i + 1 < mono.size() && x.size() < kMost; i += 2)
    x.push_back(0.25f * mono[i - 1] + 0.5f * mono[i] + 0.25f * mono[i + 1]);
  const std::size_t window = x.size() / 2;
  if (double(x.size()) < 0.05 * kPitchRate - 2) return std::nullopt;
  std::vector<double> squares(x.size() + 1, 0.0);
  for (std::size_t i = 0; i < x.size(); ++i)
    squares[i + 1] = squares[i] + double(x[i]) * double(x[i]);
  if (squares.back() / double(x.size()) < 1e-9) return std::nullopt;
  std::vector<double> product;
  correlate(x, window, product);
  // Step 3: the difference over its mean at all shorter lags.
  std::vector<double> d(window, 1.0);
  double sum = 0;
  for (std::size_t lag = 1; lag < window; ++lag) {
    const double difference =
        std::max(0.0, squares[window] + squares[lag + window] - squares[lag] - 2 * product[lag]);
    sum += difference;
    d[lag] = sum > 0 ? difference * double(lag) / sum : 1.0;
  }
  const auto first = toWhole<std::size_t>(kPitchRate / kHighest),
             last = std::min(window - 1, toWhole<std::size_t>(kPitchRate / kLowest));
  // Step 4: the first dip under the threshold, followed down to its bottom.
  std::size_t at = first;
  while (at < last && d[at] >= kThreshold) ++at;
  if (at >= last) return std::nullopt;
  while (at + 1 < last && d[at + 1] < d[at]) ++at;
  // Step 5: a parabola through the bottom; then through the bottoms of two, four and eight periods,
  // which say it so much finer.
  const double clarity = 1 - d[at];
  double lag = bottomNear(d, at);
  for (int periods = 2; periods <= 8; periods *= 2) {
    auto near = toNearest<std::size_t>(lag * periods);
    if (near + 2 >= window) break;
    for (const std::size_t beside : {near - 1, near + 1})
      if (d[beside] < d[near]) near = beside;
    if (near + 2 >= window || d[near] > 2 * kThreshold) break;
    lag = bottomNear(d, near) / periods;
  }
  return PitchHeard{Hertz(kPitchRate / lag), clarity};
}

} // namespace tuvvo
