// How a sound is brought to another tempo.
#pragma once

namespace tuvvo {

/// The three methods: speed and pitch together; length without pitch; slices left as they are and
/// only moved. A pitch change that comes with re-spacing is a repitch of every slice.
enum class FitMethod { Repitch, Stretch, Respace };

} // namespace tuvvo
