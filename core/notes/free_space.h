// Room below: a kick and a bass compared as they really sound. Not for the audio thread.
#pragma once

#include "notes/notes.h"

namespace tuvvo {

/// A low sound by itself, as its key plays it.
struct LowSound {
  Hertz fundamental{0}; ///< of what rings after the attack; 0 where it has none below 300 Hz
  Milliseconds ring{0}; ///< from its start until it stays 20 dB under its loudest 5 ms
  bool operator==(const LowSound&) const = default;
};
/// Plays a key once (bounce) and listens to it: tens of milliseconds of work.
/// @returns an empty one for a key that cannot be played
[[nodiscard]] LowSound analyseLow(const Project& project, const Key& key);

/// The kick and the bass of a pattern: the kick that is struck most, and the part with the most
/// held or tuned low notes (an octave and more under middle C).
struct LowPair {
  Id kick = 0, bass = 0; ///< keys
};
[[nodiscard]] std::optional<LowPair> lowPairOf(const Project& project, const Pattern& pattern);

struct FreeSpace {
  LowPair keys;
  LowSound kick;
  int bassNote = 36;    ///< the bass note that sounds longest, MIDI
  double apart = 0;     ///< semitones from that note's nearest octave up to the kick; −6 to 6
  double overlap = 0;   ///< share of the time the kicks ring in which the bass sounds
  double ringBeats = 0; ///< the kick's ring
  double freeBeats = 0; ///< from a kick to the next one, at the least
  double bassAfter = 0; ///< beats from a kick to the next bass note that does not begin with it,
                        ///< at the least; 0: none comes before the next kick
};
[[nodiscard]] FreeSpace freeSpaceOf(const Project& project, const Pattern& pattern,
                                    const LowPair& keys, const LowSound& kick);

/// Tunes the kick to the bass note's nearest octave, or to its fifth where that is nearer by more
/// than a semitone.
[[nodiscard]] Project withKickTuned(Project project, const FreeSpace& room);
/// Ends the kick before the next low thing: its envelope falls to nothing by then.
[[nodiscard]] Project withKickShortened(Project project, const FreeSpace& room);
/// Bass notes that begin within the kick's ring begin after it, on the next sixteenth; their ends
/// stay.
[[nodiscard]] Project withBassMoved(Project project, Id pattern, const FreeSpace& room);
/// The bass's part steps back while the kick's is struck, for as long as it rings.
[[nodiscard]] Project withBassDucked(Project project, const FreeSpace& room);

/// Notes on the patterns that the song plays, each pair of kick and bass once.
void addFreeSpaceNotes(const Project& project, std::vector<Note>& notes);

} // namespace tuvvo
