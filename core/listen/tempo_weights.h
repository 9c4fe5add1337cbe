// Written by bench/listening/fit_tempo.py: the tempo ranker; in the order of TempoEvidence.
#pragma once

#include "listen/tempo_ranking.h"

namespace tuvvo {

// clang-format off
inline constexpr TempoEvidence kStraightWeights{-3.611, -2.921, 0.07415, 0.9621, -1.851, 1.48, 1.935, 3.63, 3.528, -24.56, 5.49, 21.86, 10.39, 2.35, 9.063, 23.44, -4.294, -5.439, -1.709, 1.558, -0.3555, 0, -2.677, -0.7362, -1.357, 6.436, 0.7975, 0.9382, -0.5144, -1.389, 5.613};
inline constexpr TempoEvidence kTripletWeights{-3.611, -2.921, 0.07415, 0.9621, -1.851, 1.48, 1.935, 3.63, 3.528, -24.56, 5.49, 21.86, 10.39, 2.243, -9.894, 12.7, 2.503, 25.95, -4.588, 1.263, 9.133, -0.4384, -6.239, -2.222, -6.58, 6.436, 0.7975, 0.9382, -0.5144, -1.389, 5.613};
// clang-format on

} // namespace tuvvo
