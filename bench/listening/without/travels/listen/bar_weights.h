// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {-0.502, -0.042, 0.315, 0.14, -0.0601, 0.15},
    {-0.0274, 0.127, -0.328, 0.365, 0.000544, -0.138},
    {-0.0631, -0.0727, -0.469, 0.132, 0.357, 0.117},
    {0.499, -0.229, -0.0686, -0.245, 0.0358, 0.00722},
    {0.127, -0.281, 0.0998, 0.261, -0.206, -0.0011},
    {0.217, 0.131, -0.106, -0.226, -0.0139, -0.00298},
    {0.126, 0.3, -0.325, -0.0812, -0.00276, -0.0168},
    {0.196, 0.168, -0.0486, -0.32, 0.0494, -0.0453},
    {0.228, 0.11, -0.00987, -0.291, 0.0513, -0.088},
    {-0.314, 0.34, 0.263, 0.151, -0.266, -0.174},
    {1.69, -0.622, -0.372, -0.343, 0.0234, -0.378},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.265, 1.77, 2.14, 1.47};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-4.34, -1.21, 0, -3.73, -5.29, -4.64};
// clang-format on

} // namespace tuvvo
