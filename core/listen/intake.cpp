#include "listen/intake.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

Intake::Intake(int channels, Hertz rate, std::int64_t frames, EarSide side)
    : m_channels(channels), m_rate(rate), m_side(side), m_levels(channels, rate),
      m_resampler(rate, Hertz(kRate)) {
  const double expected = double(frames) * kRate / rate.value;
  if (expected > 0 && expected < 3 * 3600 * kRate)
    m_mono.reserve(toWhole<std::size_t>(expected) + 64);
}

void Intake::take(std::span<const float> left, std::span<const float> right) {
  m_levels.take(left, right);
  m_frames += std::int64_t(left.size());
  if (m_channels == 1 || m_side == EarSide::Left) return m_resampler.take(left, m_mono);
  if (m_side == EarSide::Right) return m_resampler.take(right, m_mono);
  m_block.resize(left.size());
  for (std::size_t i = 0; i < left.size(); ++i) m_block[i] = 0.5f * (left[i] + right[i]);
  m_resampler.take(m_block, m_mono);
}

void Intake::finish() { m_resampler.finish(m_mono); }

EarSide Intake::wantedSide() const {
  return m_channels == 1 ? EarSide::Both : earSideFor(m_levels.power());
}

std::vector<std::uint8_t> pictureOf(std::span<const float> mono, int columns) {
  std::vector<float> peaks;
  for (int c = 0; c < columns; ++c) {
    const std::size_t from = mono.size() * std::size_t(c) / std::size_t(columns),
                      to = mono.size() * std::size_t(c + 1) / std::size_t(columns);
    peaks.push_back(peakOf(mono.subspan(from, to - from)));
  }
  const float loudest = std::max(1e-9f, *std::max_element(peaks.begin(), peaks.end()));
  std::vector<std::uint8_t> out;
  for (float v : peaks) out.push_back(toNearest<std::uint8_t>(255 * v / loudest));
  return out;
}

} // namespace tuvvo
