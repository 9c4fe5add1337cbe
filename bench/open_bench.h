// Opening and keeping what is very large.
#pragma once

#include "crate_bench.h"

namespace tuvvo {

/// Opens a project of a million hits in the window: how long until it is there, and for how long at
/// most the window does not answer meanwhile. Needs a QApplication.
void benchOpening(Report report);

/// Drags a slide while an hour of sound that was never saved is autosaved: for how long at most the
/// window is held. Needs a QApplication.
void benchAutosave(Report report);

} // namespace tuvvo
