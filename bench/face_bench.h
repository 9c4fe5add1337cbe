// What each screen asks of the eye: words, controls, looks, rows that wrap, and time to paint.
#pragma once

#include "crate_bench.h"

namespace tuvvo {

/// Walks through every screen of the demo at 1280x800, playing, and prints a line for each. Needs a
/// QApplication.
void benchFace(Report report);

} // namespace tuvvo
