// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {-0.0877, -0.00825, 0.259, -0.135, -0.0758, 0.0476},
    {-0.297, 0.178, -0.457, 0.251, 0.284, 0.0419},
    {0.00544, -0.0219, -0.104, -0.023, 0.143, 0.000489},
    {0.211, 0.00799, -0.211, -0.00951, -0.00578, 0.00803},
    {0.083, -0.0885, -0.0451, 0.0761, -0.0372, 0.0116},
    {0.21, 0.084, -0.247, -0.0653, 0.014, 0.00394},
    {0.0508, 0.168, -0.132, -0.116, 0.0303, -0.000945},
    {0.196, 0.0858, -0.114, -0.168, 0.00117, -0.000994},
    {0.103, 0.0669, -0.0188, -0.141, -0.00551, -0.00521},
    {0.0345, 0.183, 0.118, 0.112, -0.26, -0.188},
    {1.2, -0.36, -0.193, -0.325, -0.121, -0.197},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.461, 0.592, 2.12, 1.65};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-3.84, -1.38, 0, -2.21, -3.12, -2.3};
// clang-format on

} // namespace tuvvo
