// A source's slices in order, as a pattern that is shown.
#pragma once

#include "beat/slices_in_order.h"
#include "panel/panel.h"

namespace tuvvo {

/// One step of undo. @returns the pattern; 0 where there are no slices to lay
Id laySlicesOut(Panel& panel, Id source, const SlicesInOrder& how = {});

} // namespace tuvvo
