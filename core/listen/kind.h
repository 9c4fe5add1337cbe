// What a sound is to this trade: one-shot, break, loop, passage, field recording, voice.
#pragma once

#include "listen/harmony.h"
#include "listen/listening.h"

namespace tuvvo {

/// Decides by what else was heard: pulse, hits and their classes, tones, length, and the way speech
/// moves (share of quiet frames and energy at four changes a second, after Scheirer & Slaney 1997).
/// The thresholds are ours; docs/decisions says how they were found.
/// @param heard  with tempo, key, hits and loop filled in
/// @param mono   at 22 050 Hz
[[nodiscard]] KindHeard hearKind(const Listening& heard, const Harmony& harmony,
                                 std::span<const float> mono);

} // namespace tuvvo
