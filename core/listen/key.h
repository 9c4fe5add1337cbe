// Key.
#pragma once

#include "listen/analysis.h"
#include "listen/harmony.h"

namespace tuvvo {

/// Key by correlation of the notes with the profiles of Krumhansl & Kessler (1982) and of Albrecht
/// & Shanahan (2013), and by the tonic's share of the bass.
/// @param notes  activations of stretches of the sound, each as long as the others or nearly
/// @returns nothing for sound without pitch
[[nodiscard]] std::optional<KeyHeard> analyseKey(const Harmony& harmony,
                                                 std::span<const Notes> notes);

} // namespace tuvvo
