// The speed of a disc or tape that wavers.
#pragma once

#include "listen/analysis.h"
#include "listen/harmony.h"

namespace tuvvo {

/// Wow at the turn of a record, by the periodogram of how far the tones stand off their tuning over
/// time: 0.56 Hz (33⅓ turns a minute), 0.75 (45), 1.3 (78), searched from 0.4 to 1.6 Hz. (The three
/// speeds: IEC 60098.) Nothing under 6 s, or where no line stands out of the rest.
/// @param bar  how long one takes, 0 where there is none: what comes a whole number of times in it
///        is how the music is played
[[nodiscard]] std::optional<WowHeard> measureWow(const Harmony& harmony, Seconds bar);

/// How many cents the speed drifts from one end to the other: a straight line through the same.
/// Nothing under 20 s or where it does not stand out of the scatter.
[[nodiscard]] std::optional<Cents> measureSpeedDrift(const Harmony& harmony);

} // namespace tuvvo
