// Loudness (ITU-R BS.1770 through libebur128) and faults of a recording.
#pragma once

#include "audio/sound.h"
#include "listen/listening.h"

namespace tuvvo {

/// Integrated loudness, range, true and sample peak; −infinity where there is silence.
[[nodiscard]] LoudnessHeard hearLoudness(const Sound& sound);

/// Integrated loudness of a stretch: gated as EBU R 128 asks where it is 400 ms or longer, and of
/// the stretch repeated to that length where it is shorter, so that short slices compare.
/// @returns LUFS; −infinity for silence
[[nodiscard]] double loudnessOf(const Sound& sound, Frames from, Frames to);

/// Clipping, DC offset, silence at the front, one-sided and inverted stereo.
[[nodiscard]] std::vector<FaultHeard> hearFaults(const Sound& sound);

} // namespace tuvvo
