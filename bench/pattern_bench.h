// Sixty-four bars with twenty thousand hits.
#pragma once

#include "crate_bench.h"

namespace tuvvo {

/// Moves one hit among twenty thousand in the shown Beat stage, with all of the pattern in sight
/// and with eight bars of it; compiles the pattern. Painting is laying out and painting what has
/// changed. Needs a QApplication.
void benchPattern(Report report);

} // namespace tuvvo
