// Weights of the tempo ranker: the design paper's, fitted on packaged music rendered with exact
// truth.
#pragma once

#include "listen/tempo_ranking.h"

namespace tuvvo {

// l², slow, fast, A1, A2, A3, A4, A6, A8, P¼, P⅓, P½, P1, A½, P2, P4, P8, P3, P6, A⅓, A⅔, one
inline constexpr TempoEvidence kStraightWeights{-2.75, -2.37, -6.1, 1.37, 0,    0,    2.21, 0,
                                                2.79,  1.98,  0,    0,    8.92, 4.15, 3.33, 8.44,
                                                2.42,  0,     0,    0,    0,    0};
inline constexpr TempoEvidence kTripletWeights{-2.75, -2.37, -6.1, 1.37, 0,     0,   2.21, 0,
                                               2.79,  1.98,  0,    0,    8.92,  0,   0,    0,
                                               0,     6.59,  3.67, 2.23, -1.36, 0.24};
inline constexpr TempoEvidence kOctaveWeights{-2.52, -1.74, -4.46, 0.9, 0,    0,    1.46, 0,
                                              1.77,  5.18,  0,     0,   2.43, 0.97, 3.53, 5.45,
                                              2.82,  0,     0,     0,   0,    0};

} // namespace tuvvo
