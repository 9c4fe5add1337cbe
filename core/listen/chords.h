// Chords by beat.
#pragma once

#include "listen/tone_sense.h"

namespace tuvvo {

/// The likeliest path through what was sensed of every stretch (Viterbi; after Bello & Pickens 2005
/// for the frame of the method), among major, minor, diminished, suspended second and fourth, major
/// and minor seventh, dominant seventh and none.
/// @param notes     of the stretches, for their bass
/// @param edges     the stretches' starts and the end of the last
/// @param downbeat  which stretches begin a bar: chords rather change there
/// @returns stretches with the same chord joined; those without one are left out
[[nodiscard]] std::vector<ChordHeard> analyseChords(const ToneSense& sense,
                                                    std::span<const Notes> notes,
                                                    std::span<const Seconds> edges,
                                                    const std::vector<bool>& downbeat);

/// Those that go on over another bass as one: with the first bass, as sure as they are in the mean
/// by their lengths, with the other name of the longest.
[[nodiscard]] std::vector<ChordHeard> overAnyBass(std::span<const ChordHeard> chords);

} // namespace tuvvo
