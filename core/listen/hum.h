// Mains hum and dead air: faults that are heard in the mono signal.
#pragma once

#include "listen/analysis.h"

#include <span>

namespace tuvvo {

/// Mains hum, when a line stands all the time at 50 or 60 Hz (right to .3 Hz, which no note of
/// equal temperament comes near) and at its harmonics, 12 dB over what is beside it.
/// @param mono  at 22 050 Hz; shorter than 3 s nothing is said
[[nodiscard]] std::optional<FaultHeard> measureHum(std::span<const float> mono);

/// The longest stretch inside the sound under −70 dB of its peak, when it lasts a second or more.
[[nodiscard]] std::optional<FaultHeard> findDeadAir(std::span<const float> mono);

} // namespace tuvvo
