// The cutting bench with a thousand slices on screen.
#pragma once

#include "crate_bench.h"

namespace tuvvo {

/// Drags an edge, a hit and the fit ruler of a source with a thousand slices. Painting is
/// laying out and painting what has changed in the shown Cut stage; answering is from the pointer's
/// move until the engine has the new score and every view knows of it. Needs a QApplication.
void benchDragging(Report report);

} // namespace tuvvo
