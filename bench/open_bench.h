// Opening what is very large.
#pragma once

#include "crate_bench.h"

namespace tuvvo {

/// Opens a project of a million hits in the window: how long until it is there, and for how long at
/// most the window does not answer meanwhile. Needs a QApplication.
void benchOpening(Report report);

} // namespace tuvvo
