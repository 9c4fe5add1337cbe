// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {-0.628, -0.0532, 0.162, 0.238, 0.0546, 0.226},
    {-0.045, 0.124, -0.121, 0.242, -0.00646, -0.193},
    {-0.19, -0.177, -0.277, 0.145, 0.315, 0.184},
    {0.426, 0.133, -0.0929, -0.318, -0.148, -0.000316},
    {0.257, -0.246, 0.0792, 0.164, -0.261, 0.00608},
    {0.125, 0.0257, 0.0166, -0.168, 0.00726, -0.00695},
    {0.138, 0.287, -0.357, -0.0503, 0.00667, -0.0235},
    {0.358, -0.0381, -0.0212, -0.264, 0.0304, -0.0649},
    {0.211, -0.00222, -0.0358, -0.108, 0.0415, -0.107},
    {-0.293, 0.202, 0.221, 0.318, -0.231, -0.216},
    {1.74, -0.577, -0.4, -0.379, -0.032, -0.354},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.295, 0.623, 2.38, 1.72};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-4.42, -1.16, 0, -3.62, -5.02, -4.15};
// clang-format on

} // namespace tuvvo
