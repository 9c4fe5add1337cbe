// Chords by beat.
#pragma once

#include "listen/analysis.h"
#include "listen/harmony.h"

namespace tuvvo {

/// The chord that fits the notes of every stretch best, among major, minor, diminished, suspended
/// second and fourth, major and minor seventh, dominant seventh and none: cosine of the chroma with
/// the chord's tones plus the bass on its root, and the likeliest path through the stretches
/// (Viterbi; after Bello & Pickens 2005 for the frame of the method).
/// @param edges     the stretches' starts and the end of the last
/// @param downbeat  which stretches begin a bar: chords rather change there
/// @param key       tones of the key are slightly favoured
/// @returns stretches with the same chord joined; those without one are left out
[[nodiscard]] std::vector<ChordHeard> analyseChords(std::span<const Notes> notes,
                                                    std::span<const Seconds> edges,
                                                    const std::vector<bool>& downbeat,
                                                    const std::optional<KeyHeard>& key);

} // namespace tuvvo
