// Key.
#pragma once

#include "listen/tone_sense.h"

namespace tuvvo {

/// The likeliest key that was sensed, how likely, and the next ones; the church mode by the tones
/// that are heard instead of the scale's own.
/// @param notes  activations of stretches of the sound, each as long as the others or nearly
/// @returns nothing for sound without pitch, and where none is likelier than all keys together
[[nodiscard]] std::optional<KeyHeard> analyseKey(const Harmony& harmony, const ToneSense& sense,
                                                 std::span<const Notes> notes);

} // namespace tuvvo
