// Bars that repeat without change. Inner part of notes/.
#pragma once

#include "notes/notes.h"

namespace tuvvo {

/// Of patterns that the song plays for eight bars and more without one bar that differs.
void addSimilarityNotes(const Project& project, std::vector<Note>& notes);

} // namespace tuvvo
