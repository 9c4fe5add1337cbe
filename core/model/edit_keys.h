// What edits of keys share. Inner part of model/.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// The part that a key's hits are written on: one a source for cuts, else one of its own.
Id partFor(Project& project, Row row, const SoundRef& sound, const std::string& name);

} // namespace tuvvo
