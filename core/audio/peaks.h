// Waveform pictures at any zoom: a pyramid of minima, maxima and loudness.
#pragma once

#include "audio/sound.h"

namespace tuvvo {

/// Both channels together over a stretch of frames.
struct Extremes {
  float low = 0.0f, high = 0.0f;
  float square = 0.0f; ///< the mean of the squares: its root is how loud the stretch is
};

/// Level 0 holds one pair for each 64 frames, every further level one for four of the level below,
/// so that any column is read from at most a handful of pairs. Immutable; any thread.
class Peaks {
public:
  explicit Peaks(const Sound& sound);

  /// Extremes over [from, to), clamped to the sound; fine stretches are read from the samples.
  /// @param sound  the one that the peaks were made of
  [[nodiscard]] Extremes over(const Sound& sound, Frames from, Frames to) const;

private:
  static constexpr std::int64_t kBase = 64, kStep = 4;
  std::vector<std::vector<Extremes>> m_levels;
};

using PeaksPtr = std::shared_ptr<const Peaks>;

} // namespace tuvvo
