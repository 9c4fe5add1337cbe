// Sound in memory: immutable once made, shared and never copied.
#pragma once

#include "audio/samples.h"
#include "base/units.h"

#include <array>
#include <cmath>
#include <memory>
#include <span>
#include <string>
#include <vector>

namespace tuvvo {

/// Beyond this a sample is no sound (+120 dBFS): it comes of a damaged file, of integers that were
/// taken for floats, of a program that sends nonsense. It is made silent where it comes in.
inline constexpr float kLoudestSample = 1e6f;
/// False for what is no number, too. Audio-thread safe.
[[nodiscard]] inline bool isSound(float sample) { return std::abs(sample) <= kLoudestSample; }

/// One or two channels of 32-bit float samples at one rate. Full scale is ±1; louder values are
/// kept. Every sample is a finite number. Reading is safe on any thread, the audio thread included.
class Sound {
public:
  /// @param channels  one or two of equal length, finite samples
  /// @param rate      8000 to 192000 Hz
  Sound(Channels channels, Hertz rate);

  [[nodiscard]] int channels() const { return int(m_channels.size()); }
  [[nodiscard]] Frames frames() const { return Frames(std::int64_t(m_channels[0].size())); }
  [[nodiscard]] Hertz rate() const { return m_rate; }
  [[nodiscard]] Seconds duration() const { return toSeconds(frames(), m_rate); }
  /// 0 is left or the only one; asking a mono sound for 1 gives the only one.
  [[nodiscard]] std::span<const float> channel(int index) const {
    return m_channels[std::size_t(index < channels() ? index : 0)];
  }
  /// Content hash of rate, channel count and samples: the sound's name on disc and in lineage.
  [[nodiscard]] const std::string& hash() const { return m_hash; }

private:
  Channels m_channels;
  Hertz m_rate;
  std::string m_hash;
};

using SoundPtr = std::shared_ptr<const Sound>;

/// Sums over a sound's samples, by which its sides are weighed.
struct StereoPower {
  double left = 0, right = 0; ///< of squares
  double product = 0;         ///< of left times right
};
/// What a single ear listens to: both sides together, or the louder one where much of it is lost in
/// their sum because they move against each other.
enum class EarSide { Both, Left, Right };
[[nodiscard]] EarSide earSideFor(const StereoPower& power);

/// The mean of the channels, or the louder one, as earSideFor() has it.
[[nodiscard]] Samples monoOf(const Sound& sound);

/// The largest absolute sample; 0 for none.
[[nodiscard]] float peakOf(std::span<const float> samples);

/// The largest absolute sample between two frames (clamped to the sound).
[[nodiscard]] float peakOf(const Sound& sound, Frames from, Frames to);

} // namespace tuvvo
