// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {0.0204, -0.0329, 0.119, -0.0226, 0.00828, -0.0926},
    {-0.146, 0.122, -0.159, 0.124, 0.0627, -0.0037},
    {-0.0732, -0.01, -0.165, 0.0454, 0.139, 0.0639},
    {0.17, -0.0653, -0.0727, -0.0434, 0.00992, 0.00146},
    {0.216, -0.14, -0.0765, 0.0158, -0.0158, -0.000122},
    {0.15, 0.0465, -0.104, -0.0888, -0.00309, -0.00147},
    {0.188, 0.0406, -0.15, -0.0728, -0.0071, 0.00127},
    {0.0969, 0.0475, -0.0387, -0.0879, -0.00719, -0.0106},
    {0.129, 0.00758, -0.0601, -0.0584, 0.00137, -0.0197},
    {0.13, 0.144, -0.0425, 0.115, -0.173, -0.174},
    {0.836, -0.182, -0.113, -0.288, -0.087, -0.166},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{2.11, 1.38, 1.99, 1.5};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-5.35, -1.87, 0, -4.1, -5.36, -4.31};
// clang-format on

} // namespace tuvvo
