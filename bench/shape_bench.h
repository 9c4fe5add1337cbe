// Planning a fit and baking slices.
#pragma once

#include "crate_bench.h"

namespace tuvvo {

/// Ten thousand sources against ten thousand beats.
void benchPlanner(Report report);
/// Stretching half a minute beside the rubberband command-line tool, the same engines on the same
/// file, turn by turn.
void benchStretching(Report report);
/// Where quick previews put notes against the fine bake, and how far their pitch is off.
void benchPreviews(Report report);
/// Eight slices on one and on two threads.
void benchBaking(Report report);

} // namespace tuvvo
