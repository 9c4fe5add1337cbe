// Layers of a key that take away from each other. Inner part of notes/.
#pragma once

#include "notes/notes.h"

namespace tuvvo {

/// Of keys whose layers lose 2 dB and more of their lows to each other's phases (layer_phase.h).
void addPhaseNotes(const Project& project, std::vector<Note>& notes);

} // namespace tuvvo
