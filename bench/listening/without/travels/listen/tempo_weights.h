// Written by bench/listening/fit_tempo.py: the tempo ranker; in the order of TempoEvidence.
#pragma once

#include "listen/tempo_ranking.h"

namespace tuvvo {

// clang-format off
inline constexpr TempoEvidence kStraightWeights{-2.247, -1.821, -3.161, 0.7488, 0.4703, 0.3169, 1.044, 0.9907, 1.774, -11.52, -0.5445, 11.56, 4.936, 1.773, 5.357, 8.526, 1.25, -0.4324, 2.984, -1.429, -0.8084, 0, -1.359, -0.402, -1.043, 2.614, -0.1615, 0.3848, -0.6109, -0.05944, 2.688};
inline constexpr TempoEvidence kTripletWeights{-2.247, -1.821, -3.161, 0.7488, 0.4703, 0.3169, 1.044, 0.9907, 1.774, -11.52, -0.5445, 11.56, 4.936, -2.802, -0.2876, 6.262, 2.253, 8.716, 2.03, 1.261, 0.7102, -0.1078, -2.281, -1.815, -1.722, 2.614, -0.1615, 0.3848, -0.6109, -0.05944, 2.688};
// clang-format on

} // namespace tuvvo
