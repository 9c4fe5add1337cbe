// Offline change of sample rate, by libsoxr at its very high quality.
#pragma once

#include "audio/sound.h"
#include "base/result.h"

namespace tuvvo {

/// The same sound at another rate; length round(frames · to / from). Not for the audio thread.
Result<SoundPtr> resample(const Sound& sound, Hertz rate);

/// The same for one channel of samples.
[[nodiscard]] std::vector<float> resample(std::span<const float> samples, Hertz from, Hertz to);

} // namespace tuvvo
