// A short sound that is known again wherever it comes back.
#pragma once

#include <optional>
#include <span>

namespace tuvvo {

inline constexpr int kProbeFrames = 4096; ///< 85 ms at 48 kHz
inline constexpr float kProbePeak = 0.25f;

/// A sine that rises evenly in log frequency from 150 Hz to 15 kHz (A. Farina, "Simultaneous
/// measurement of impulse response and distortion with a swept-sine technique", AES 108, 2000),
/// with 5 ms of fade at either end, peak kProbePeak. Made at the first call; from then on safe
/// on the audio thread.
[[nodiscard]] std::span<const float> probeWave();

struct ProbeFound {
  int at = 0;             ///< frame of the recording where the probe begins
  double correlation = 0; ///< correlation coefficient there, 0 to 1; below .5 is no find
  float gain = 0;         ///< of what came back against what went out
};

/// Where a recording at 48 kHz holds the probe: the largest normalised cross-correlation; turned
/// over counts too. Not for the audio thread: the work grows with the length.
/// @returns nothing where no place is like it (coefficient under .5) or where it is too quiet
///          (under −70 dB of what went out)
[[nodiscard]] std::optional<ProbeFound> findProbe(std::span<const float> recorded);

} // namespace tuvvo
