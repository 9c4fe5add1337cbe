// Where a pin is really heard: grid, swing, lean. Pure; safe anywhere.
#pragma once

#include "base/tempo_map.h"
#include "model/project.h"

namespace tuvvo {

/// A place moved by swing: the second half of each pair starts at s % of the pair (50 straight,
/// 66.7 triplet) and everything between is spread evenly.
/// @param pairsPerBeat  2 swings sixteenths, 1 eighths
[[nodiscard]] Beats swung(Beats at, double swingPercent, int pairsPerBeat);

/// Where a pin sounds after swing and both leans, in frames from the pattern's start; may be
/// negative for an early pin on the first beat.
[[nodiscard]] Frames heardAt(const Pin& pin, const Lane& lane, const TempoMap& tempo, Hertz rate);

} // namespace tuvvo
