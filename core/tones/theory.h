// Keys, chords and their notes in equal temperament. Pure; pitch classes are 0 = C … 11 = B, notes
// are MIDI numbers (60 = C4).
#pragma once

#include "listen/spelling.h"

namespace tuvvo {

/// The notes of a key from its tonic on: the major scale, or the natural minor one.
[[nodiscard]] std::array<int, 7> scaleOf(KeyName key);
[[nodiscard]] bool inScale(KeyName key, int pitchClass);

/// Its degree in a key: capitals where its third is major, small letters where it is minor or
/// diminished, with an accidental where its root is not in the key, and its ending: "ii7", "bVII",
/// "vii°". Degrees of a minor key are counted on the natural minor scale.
[[nodiscard]] std::string romanOf(const ChordName& chord, KeyName key);

/// The chords on the seven degrees of a key.
/// @param sevenths  with a fourth tone, where it is one of kChordKinds; else the triad
[[nodiscard]] std::vector<ChordName> chordsIn(KeyName key, bool sevenths = false);

[[nodiscard]] bool hasTone(const ChordName& chord, int pitchClass);
[[nodiscard]] ChordName transposed(ChordName chord, int semitones);

/// A chord's notes in close position, the lowest not below `lowest`: inversion 0 stands on the
/// root, 1 on the third (or what stands for it), and so on round its tones.
[[nodiscard]] std::vector<int> voiced(const ChordName& chord, int inversion, int lowest);

/// The note of a pitch class that is not below `lowest` and less than an octave above it.
[[nodiscard]] int noteAbove(int pitchClass, int lowest);
/// The nearest note that is a tone of the chord; of two as near the lower one.
[[nodiscard]] int nearestTone(const ChordName& chord, int note);

} // namespace tuvvo
