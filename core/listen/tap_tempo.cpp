#include "listen/tap_tempo.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

void TapTempo::tap(Seconds at) {
  if (!m_taps.empty() && (at.value - m_taps.back() > 2.5 || at.value <= m_taps.back()))
    m_taps.clear();
  m_taps.push_back(at.value);
}

std::optional<TappedTempo> TapTempo::tempo() const {
  if (m_taps.size() < 2) return std::nullopt;
  std::vector<double> gaps;
  for (std::size_t i = 1; i < m_taps.size(); ++i) gaps.push_back(m_taps[i] - m_taps[i - 1]);
  std::nth_element(gaps.begin(), gaps.begin() + std::ptrdiff_t(gaps.size() / 2), gaps.end());
  const double typical = gaps[gaps.size() / 2];

  std::vector<double> index{0};
  for (std::size_t i = 1; i < m_taps.size(); ++i)
    index.push_back(index.back() +
                    std::max(1.0, std::round((m_taps[i] - m_taps[i - 1]) / typical)));
  const double n = double(index.size());
  double sx = 0, sy = 0;
  for (std::size_t i = 0; i < index.size(); ++i) {
    sx += index[i];
    sy += m_taps[i];
  }
  double sxx = 0, sxy = 0;
  for (std::size_t i = 0; i < index.size(); ++i) {
    sxx += (index[i] - sx / n) * (index[i] - sx / n);
    sxy += (index[i] - sx / n) * (m_taps[i] - sy / n);
  }
  const double period = sxy / sxx;
  double square = 0;
  for (std::size_t i = 0; i < index.size(); ++i) {
    const double off = m_taps[i] - sy / n - period * (index[i] - sx / n);
    square += off * off;
  }
  const double perTap = n > 2 ? std::max(0.002, std::sqrt(square / (n - 2))) : 0.020;
  const double periodError = perTap / std::sqrt(sxx);
  const double bpm = 60 / period;
  return TappedTempo{Bpm(bpm), bpm * periodError / period, toWhole<int>(n)};
}

} // namespace tuvvo
