// Which chord sounds when in a pattern: as heard in what plays, or as it was written. Pure.
#pragma once

#include "listen/chord_name.h"
#include "model/project.h"

namespace tuvvo {

/// One stretch of a pattern over which one chord sounds.
struct ChordSpan {
  Beats from, until; ///< inside the pattern; half open
  ChordName chord;
  Id source = 0; ///< in which it is heard; 0: it was written
};

/// The chords of the sources that a pattern plays, as they sound after their sources' and their
/// keys' and hits' own retuning, on whichever of them was struck last; in rising order, with gaps
/// where nothing that has chords sounds. A slice is followed through the chords inside it;
/// treatments other than playing backwards are not followed. Stretches shorter than an eighth of a
/// beat belong to what comes after them. A chord that comes again after up
/// to two beats of nothing went on.
[[nodiscard]] std::vector<ChordSpan> heardChords(const Project& project, const Pattern& pattern);
/// The written ones, where there are any, each up to the next; else as heard.
[[nodiscard]] std::vector<ChordSpan> chordsOf(const Project& project, const Pattern& pattern);
/// The chord at a place; in a gap the one before it, round the pattern's end. Null for none.
/// @param spans  in rising order
[[nodiscard]] const ChordSpan* chordAt(const std::vector<ChordSpan>& spans, Beats at);

/// Writes what sounds down, so that it can be changed; leaves a pattern with written chords alone.
[[nodiscard]] Pattern withChordsWritten(const Project& project, Pattern pattern);
/// Writes one chord over the stretch that is there: the others are written down as they sound.
/// @param at  anywhere inside the stretch; where there is none it begins there
[[nodiscard]] Pattern withChord(const Project& project, Pattern pattern, Beats at,
                                const std::string& name);

} // namespace tuvvo
