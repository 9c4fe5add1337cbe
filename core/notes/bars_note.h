// Loops that do not end on a bar line.
#pragma once

#include "notes/notes.h"

namespace tuvvo {

/// Whether nothing new is played from a place of a sound on: what rang before dies away. No hit
/// begins there, and it is 6 dB softer than as much before it (common practice, no source).
[[nodiscard]] bool onlyRings(const Source& source, Seconds from);

/// Speaks where a source that may be a loop (0.6 to 33 bars), or what is cut of it, ends a tenth of
/// a beat and more off its bars. What only rings on after a bar line is a tail and no bar. The
/// tempo is doubted only where the beats that were heard agree with another one better, and never
/// where the person said it.
void addBarsNote(const Source& source, std::vector<Note>& notes);

} // namespace tuvvo
