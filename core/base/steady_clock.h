// The clock that never jumps, for when something was struck and when a block was asked for.
#pragma once

#include "base/units.h"

#include <chrono>

namespace tuvvo {

/// Since some moment that stays the same while the program runs. Safe on the audio thread.
inline Nanoseconds steadyNow() {
  return Nanoseconds(std::chrono::steady_clock::now().time_since_epoch() /
                     std::chrono::nanoseconds(1));
}

} // namespace tuvvo
