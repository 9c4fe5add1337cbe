// Hits and tones told apart, measured on mixes whose parts are known.
#pragma once

#include "crate_bench.h"

namespace tuvvo {

/// Renders drums and tones apart with the fluidsynth tool, mixes them at equal power, separates
/// them and compares with the parts. Figures are improvements of the signal-to-distortion ratio
/// over the mix itself, in dB, means over the mixes. Beside ours stands the plain method:
/// Fitzgerald 2010 with medians of 31 and the Wiener mask, under windows of 2048 (what a general
/// library does unasked) and of 8192 samples with medians of 17 (the best of those tried on other
/// mixes).
void benchIsolation(Report report);

} // namespace tuvvo
