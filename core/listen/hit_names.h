// What struck sounds are called: a network that hears each in sight of those around it. Any thread
// but the audio thread.
#pragma once

#include "listen/hit_detector.h"

#include <functional>

namespace tuvvo {

/// Likelihoods, 0 to 1: that something is struck at all, that it is a kick, a snare, a hat or
/// something else, and that it is each of the drums.
struct HitNamed {
  float onset = 0, kick = 0, snare = 0, hat = 0, other = 0;
  std::array<float, kDrums> drums{}; ///< by Drum
};

/// Names the rises of a sound. Each is heard by itself first (two layers over its features), then
/// beside those like it (attention.h): the same drums come again and again, and a kick with a hat
/// on it is told by the kicks that have none. At last it is heard with those before it and after it
/// and how far away they are (gated recurrent units in both directions, Cho et al. 2014 as PyTorch
/// writes them). Learnt by bench/listening/fit_hits.py.
/// @param frames      where the rises of one sound are, in rising order
/// @param featuresOf  gives those of a rise by its number; called once for each, in order, and not
/// kept: a long sound has tens of thousands
/// @returns one for each
[[nodiscard]] std::vector<HitNamed>
nameHits(std::span<const int> frames,
         const std::function<HitDetector::Features(std::size_t)>& featuresOf);

} // namespace tuvvo
