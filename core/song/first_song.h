// A first arrangement from one pattern.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// Lays sections out of a pattern in place of those that are there: four bars of a thinner
/// alternative, eight of the whole, eight that end in a changed last bar, four thin ones to go out
/// with (common practice, no source). Lengths are whole rounds of the pattern, so that a long one
/// makes a longer song.
/// @returns the project as it was where there is no such pattern
[[nodiscard]] Project withFirstSong(Project project, Id pattern);

} // namespace tuvvo
