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
/// @param sevenths  with a fourth tone; else the triad
[[nodiscard]] std::vector<ChordName> chordsIn(KeyName key, bool sevenths = false);

[[nodiscard]] bool hasTone(const ChordName& chord, int pitchClass);
[[nodiscard]] ChordName transposed(ChordName chord, int semitones);

/// How a chord's tones lie over each other.
enum class Voicing {
  Close,   ///< each tone on the next note that is it
  Open,    ///< the second from below an octave higher
  Spread,  ///< open, and all but the lowest an octave higher
  Rootless ///< close, without the root, and without a bass that was written: another plays them
};
/// A chord's notes, the lowest not below `lowest` and less than an octave above it. Inversion 0
/// stands on the root, 1 on the third (or what stands for it), and so on round its tones; over a
/// bass that was written stand the others, from the nearest one on or turned.
[[nodiscard]] std::vector<int> voiced(const ChordName& chord, int inversion, int lowest,
                                      Voicing voicing = Voicing::Close);
/// So many steps of a key's scale higher (negative: lower). What is not in the scale keeps its
/// distance from the step below it, as far as there is room.
[[nodiscard]] int stepped(int note, int steps, KeyName key);

/// The note of a pitch class that is not below `lowest` and less than an octave above it.
[[nodiscard]] int noteAbove(int pitchClass, int lowest);
/// The nearest note that is a tone of the chord; of two as near the lower one.
[[nodiscard]] int nearestTone(const ChordName& chord, int note);

} // namespace tuvvo
