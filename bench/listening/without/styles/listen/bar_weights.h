// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {0.00761, -0.0291, 0.119, -0.0615, -0.0255, -0.011},
    {-0.16, 0.134, -0.193, 0.138, 0.13, -0.049},
    {-0.078, 0.0187, -0.158, 0.0583, 0.124, 0.0355},
    {0.181, -0.0649, -0.0875, -0.0401, 0.0102, 0.00105},
    {0.202, -0.126, -0.0716, 0.0339, -0.0372, -0.00168},
    {0.154, 0.0494, -0.111, -0.0912, -0.00123, -0.000105},
    {0.144, 0.0782, -0.163, -0.0688, 0.00711, 0.00186},
    {0.109, 0.0456, -0.0591, -0.0793, -0.0072, -0.00917},
    {0.121, 0.0342, -0.0541, -0.0738, -0.00695, -0.0206},
    {0.142, 0.143, -0.0434, 0.0957, -0.177, -0.16},
    {0.852, -0.196, -0.0968, -0.279, -0.108, -0.172},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{2.12, 1.67, 1.87, 1.48};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-5.32, -1.96, 0, -4.15, -5.36, -4.35};
// clang-format on

} // namespace tuvvo
