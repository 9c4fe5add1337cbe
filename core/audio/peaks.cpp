#include "audio/peaks.h"

#include <algorithm>
#include <span>

namespace tuvvo {

namespace {

/// Of blocks that are equally long. The last of a sound may be shorter, which nobody sees.
template <class Blocks> Extremes together(const Blocks& blocks) {
  Extremes all = blocks.front();
  all.square = 0;
  for (const Extremes& one : blocks) {
    all.low = std::min(all.low, one.low);
    all.high = std::max(all.high, one.high);
    all.square += one.square / float(blocks.size());
  }
  return all;
}

Extremes fromSamples(const Sound& sound, std::int64_t begin, std::int64_t end) {
  Extremes all{1e30f, -1e30f, 0};
  double squares = 0;
  for (int c = 0; c < sound.channels(); ++c) {
    const auto samples = sound.channel(c);
    for (auto i = begin; i < end; ++i) {
      const float v = samples[std::size_t(i)];
      all.low = std::min(all.low, v);
      all.high = std::max(all.high, v);
      squares += double(v) * double(v);
    }
  }
  all.square = float(squares / double(std::max<std::int64_t>(1, (end - begin) * sound.channels())));
  return all;
}

} // namespace

Peaks::Peaks(const Sound& sound) {
  const std::int64_t frames = sound.frames().value;
  std::vector<Extremes> level;
  level.reserve(std::size_t((frames + kBase - 1) / kBase));
  for (std::int64_t at = 0; at < frames; at += kBase)
    level.push_back(fromSamples(sound, at, std::min(at + kBase, frames)));
  m_levels.push_back(std::move(level));
  while (m_levels.back().size() > std::size_t(kStep)) {
    const auto& below = m_levels.back();
    std::vector<Extremes> above;
    above.reserve(below.size() / kStep + 1);
    for (std::size_t i = 0; i < below.size(); i += kStep)
      above.push_back(
          together(std::span(below).subspan(i, std::min<std::size_t>(kStep, below.size() - i))));
    m_levels.push_back(std::move(above));
  }
}

Extremes Peaks::over(const Sound& sound, Frames from, Frames to) const {
  std::int64_t begin = std::clamp<std::int64_t>(from.value, 0, sound.frames().value);
  const std::int64_t end = std::clamp<std::int64_t>(to.value, begin, sound.frames().value);
  if (begin == end) return {};
  if (end - begin < 2 * kBase) return fromSamples(sound, begin, end);
  // Whole blocks only, rounded outwards by less than one block of the chosen level: a column of
  // pixels cannot show the difference, and no single sample needs to be touched.
  std::size_t depth = 0;
  std::int64_t block = kBase;
  while (depth + 1 < m_levels.size() && (end - begin) >= 8 * block) {
    block *= kStep;
    ++depth;
  }
  const auto& level = m_levels[depth];
  const auto first = std::size_t(begin / block);
  const auto last = std::min(level.size(), std::size_t((end + block - 1) / block));
  return together(std::span(level).subspan(first, last - first));
}

} // namespace tuvvo
