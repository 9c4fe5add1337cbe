// Slices that do the same job and are not equally loud.
#pragma once

#include "notes/notes.h"

namespace tuvvo {

[[nodiscard]] SliceJob jobOf(const Source& source, const Cut& cut);

/// Speaks where one drum stands 10 LU and more over the middle one of its job (a softer one is
/// drumming), or where slices of tones are 8 LU and more apart (a rest, 20 LU under the middle one,
/// does not count). Silent once somebody has set the levels of slices apart from each other.
/// All borders: common practice, no source.
void addLevelNote(const Project& project, const Source& source, LoudnessCache& loudness,
                  std::vector<Note>& notes);

} // namespace tuvvo
