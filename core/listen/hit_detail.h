// What each hit is like beside its class: how long it rings, at what pitch, and which others are
// the same drum.
#pragma once

#include "listen/hit_detector.h"

namespace tuvvo {

/// Fills in decay, ring and group of onsets that were found in the same sound.
/// @param mono    at 22 050 Hz
/// @param onsets  in rising time, with cut points and classes
void describeHits(std::span<const float> mono, const HitDetector& detector,
                  std::vector<Onset>& onsets);

} // namespace tuvvo
