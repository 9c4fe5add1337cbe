// Notes about cuts and shapes. Inner part of notes/.
#pragma once

#include "notes/notes.h"

namespace tuvvo {

/// Cuts inside attacks, edges that click, dead air at the front, stretching that can be heard.
void addCutNotes(const Project& project, const Source& source, std::vector<Note>& notes);

} // namespace tuvvo
