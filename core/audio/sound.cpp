#include "audio/sound.h"

#include "base/convert.h"
#include "base/hash.h"
#include "base/wide.h"

#include <algorithm>
#include <array>
#include <cassert>
#include <cmath>

namespace tuvvo {

Sound::Sound(Channels channels, Hertz rate) : m_channels(std::move(channels)), m_rate(rate) {
  assert(m_channels.size() == 1 || m_channels.size() == 2);
  assert(m_channels.size() == 1 || m_channels[0].size() == m_channels[1].size());
  ContentHasher hasher;
  const std::int64_t head[2] = {toNearest<std::int64_t>(rate.value),
                                std::int64_t(m_channels.size())};
  hasher.add(head, sizeof head);
  for (const auto& samples : m_channels) hasher.add(samples.data(), samples.size() * sizeof(float));
  m_hash = hasher.hex();
}

EarSide earSideFor(const StereoPower& power) {
  // Sides that have nothing in common keep half their power in the mean; this is a third.
  constexpr double kLeastKept = 0.35;
  const double kept = (power.left + power.right + 2 * power.product) / 4;
  if (kept >= kLeastKept * std::max(power.left, power.right)) return EarSide::Both;
  // One side alone in a stereo sound keeps a quarter of its power in the mean, and its shape.
  if (power.product >= -0.3 * std::sqrt(power.left * power.right)) return EarSide::Both;
  return power.left >= power.right ? EarSide::Left : EarSide::Right;
}

Samples monoOf(const Sound& sound) {
  const auto left = sound.channel(0), right = sound.channel(1);
  StereoPower power;
  for (std::size_t i = 0; sound.channels() == 2 && i < left.size(); ++i) {
    power.left += double(left[i]) * double(left[i]);
    power.right += double(right[i]) * double(right[i]);
    power.product += double(left[i]) * double(right[i]);
  }
  const EarSide side = earSideFor(power);
  if (side != EarSide::Both) {
    const auto loud = side == EarSide::Left ? left : right;
    return Samples(loud.begin(), loud.end());
  }
  Samples mono(left.size());
  for (std::size_t i = 0; i < mono.size(); ++i) mono[i] = 0.5f * (left[i] + right[i]);
  return mono;
}

TUVVO_WIDE float peakOf(std::span<const float> samples) {
  std::array<float, 8> peaks{}; // side by side, so that the compiler can take eight at once
  std::size_t i = 0;
  for (; i + 8 <= samples.size(); i += 8)
    for (std::size_t k = 0; k < 8; ++k) {
      const float v = std::abs(samples[i + k]);
      peaks[k] = peaks[k] < v ? v : peaks[k];
    }
  for (; i < samples.size(); ++i) peaks[0] = std::max(peaks[0], std::abs(samples[i]));
  return *std::max_element(peaks.begin(), peaks.end());
}

float peakOf(const Sound& sound, Frames from, Frames to) {
  const auto begin = std::size_t(std::clamp<std::int64_t>(from.value, 0, sound.frames().value)),
             end = std::size_t(std::clamp<std::int64_t>(to.value, 0, sound.frames().value));
  if (begin >= end) return 0;
  return std::max(peakOf(sound.channel(0).subspan(begin, end - begin)),
                  peakOf(sound.channel(1).subspan(begin, end - begin)));
}

} // namespace tuvvo
