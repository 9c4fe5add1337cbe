// A sound parted by frequency, or by what its channels share.
#pragma once

#include "base/units.h"
#include "shape/varispeed.h"

namespace tuvvo {

enum class BandKept { Low, Middle, High };

/// Keeps one of three bands. Crossovers of the fourth order (Linkwitz 1976: two Butterworth
/// sections each way, 6 dB down at the crossing); the low band is turned in phase as the upper
/// crossing turns the others, so that the three add up to a flat whole (an all-pass of it).
/// @param low, high  crossings, rising, below half the rate
void keepBand(Channels& sound, BandKept keep, Hertz low, Hertz high, Hertz rate);

/// Keeps what both channels share, (left + right) / 2 on both, or what they do not,
/// (left − right) / 2 with opposite signs. The two add up to the sound.
void keepSides(Channels& sound, bool sides);

} // namespace tuvvo
