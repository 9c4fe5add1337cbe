// A bass that follows the chords that sound, and chords played by name: suggestions, as plain hits.
// Pure.
#pragma once

#include "base/result.h"
#include "tones/chord_line.h"
#include "tones/theory.h"

namespace tuvvo {

/// Where something low is struck in a pattern, as it is heard: hits of drums that are kicks, and
/// slices of breaks that have one. In rising order, each place once.
struct KickAt {
  double heard = 0; ///< ticks from the pattern's start
  Id key = 0;
};
[[nodiscard]] std::vector<KickAt> kicksOf(const Project& project, const Pattern& pattern);

struct BassPlan {
  Id key = 0; ///< plays it; its sound has one note (rootOf)
  enum class Tones {
    Roots,   ///< of chords over another bass, that bass; so with the others
    Fifths,  ///< the root first, then the chord's fifth and the root in turn
    Octaves, ///< the root and its octave in turn
    Approach ///< roots; the last note before another chord leads to its root by a step of the key
  } tones = Tones::Roots;
  enum class Rhythm {
    WithKick,   ///< where kicks are heard
    BeforeKick, ///< an eighth before each kick, up to it, in the chord the kick falls on
    OnOnes,     ///< at every bar and at every new chord
    Answering   ///< half way between kicks
  } rhythm = Rhythm::WithKick;
  int lowest = 28;     ///< roots lie in the octave from this note on; 12 to 72 (28 = E1)
  double length = 0.9; ///< share of the way to the next note, two beats at most, that one sounds;
                       ///< 0.1 to 1.2: over 1 it glides into the next on a key that glides
  double velocity = 0.85;
  bool operator==(const BassPlan&) const = default;
};

/// Lays a bass over the lane of the key's part, instead of what that key has there.
/// @returns an Error where the key's sound has no one note, where no chord is heard or written, and
///          where there is no kick to go by
[[nodiscard]] Result<Pattern> withBass(const Project& project, const Pattern& pattern,
                                       const BassPlan& plan);

struct ChordPlan {
  Id key = 0;        ///< plays the notes
  int inversion = 0; ///< 0 stands on the root, 1 on the third, and so on
  Voicing voicing = Voicing::Close;
  bool parallel = false; ///< the first chord's shape is moved to every root, whatever its kind
  int lowest = 52;       ///< the lowest note is not below this; 24 to 84 (52 = E3)
  Milliseconds strum{0}; ///< from one note of a chord to the next; −60 (from the top) to 60
  double velocity = 0.7;
  bool operator==(const ChordPlan&) const = default;
};
/// Plays every chord of a pattern on a key, each as long as it sounds, instead of what the key has
/// in its lane.
/// @returns an Error where the key's sound has no one note, and where no chord is heard or written
[[nodiscard]] Result<Pattern> withChordsPlayed(const Project& project, const Pattern& pattern,
                                               const ChordPlan& plan);

/// The note a hit sounds, by the note of what its key plays; 60 where that has none.
[[nodiscard]] int noteOf(const Project& project, const Hit& hit);

/// How a note stands to what sounds with it.
enum class Agrees { Chord, Scale, Neither };
[[nodiscard]] Agrees agrees(int note, const ChordSpan* chord, const std::optional<KeyName>& key);

/// A key tuned by less than half a semitone so that its sound is in tune (A4 = 440 Hz): what is
/// written is what sounds.
/// @returns the project as it is where the sound has no one note
[[nodiscard]] Project withNoteTuned(Project project, Id key);

} // namespace tuvvo
