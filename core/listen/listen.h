// Hearing a sound once: everything that a Listening holds.
#pragma once

#include "audio/sound.h"
#include "base/jobs.h"
#include "listen/listening.h"

namespace tuvvo {

/// Not for the audio thread; any number at once. Pure: depends on nothing but the samples.
/// @returns what was heard so far, when the job was cancelled
[[nodiscard]] Listening listen(const Sound& sound, JobContext& job);

} // namespace tuvvo
