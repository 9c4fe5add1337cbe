#include "audio/sound.h"

#include "base/hash.h"

#include <algorithm>
#include <cassert>
#include <cmath>

namespace tuvvo {

Sound::Sound(std::vector<std::vector<float>> channels, Hertz rate)
    : m_channels(std::move(channels)), m_rate(rate) {
  assert(m_channels.size() == 1 || m_channels.size() == 2);
  assert(m_channels.size() == 1 || m_channels[0].size() == m_channels[1].size());
  ContentHasher hasher;
  const std::int64_t head[2] = {std::llround(rate.value), std::int64_t(m_channels.size())};
  hasher.add(head, sizeof head);
  for (const auto& samples : m_channels) hasher.add(samples.data(), samples.size() * sizeof(float));
  m_hash = hasher.hex();
}

std::vector<float> monoOf(const Sound& sound) {
  const auto left = sound.channel(0), right = sound.channel(1);
  std::vector<float> mono(left.size());
  for (std::size_t i = 0; i < mono.size(); ++i) mono[i] = 0.5f * (left[i] + right[i]);
  return mono;
}

float peakOf(const Sound& sound, Frames from, Frames to) {
  const auto begin = std::clamp<std::int64_t>(from.value, 0, sound.frames().value);
  const auto end = std::clamp<std::int64_t>(to.value, begin, sound.frames().value);
  float peak = 0.0f;
  for (int c = 0; c < sound.channels(); ++c)
    for (auto i = begin; i < end; ++i)
      peak = std::max(peak, std::abs(sound.channel(c)[std::size_t(i)]));
  return peak;
}

} // namespace tuvvo
