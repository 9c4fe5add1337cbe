// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {-7.34e-05, -0.0397, 0.157, 0.0192, -0.0533, -0.0834},
    {-0.0971, 0.134, -0.142, 0.143, 0.00498, -0.0434},
    {-0.0563, -0.00602, -0.148, 0.0284, 0.175, 0.00713},
    {0.248, -0.0709, -0.123, -0.0594, 0.00542, -2.27e-06},
    {0.175, -0.14, -0.0313, 0.0338, -0.0332, -0.00433},
    {0.23, 0.0398, -0.205, -0.0474, -0.0147, -0.00217},
    {0.17, 0.0562, -0.131, -0.0688, -0.0265, -0.000548},
    {0.156, 0.0444, -0.0888, -0.104, 0.00365, -0.0108},
    {0.102, 0.0197, -0.0329, -0.0788, 0.00978, -0.0195},
    {0.118, 0.134, -0.0296, 0.116, -0.175, -0.164},
    {0.95, -0.326, -0.181, -0.263, -0.0542, -0.126},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{-0.0795, 1.77, 2.53, 1.61};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-4.89, -1.66, 0, -4.01, -5.3, -4.76};
// clang-format on

} // namespace tuvvo
