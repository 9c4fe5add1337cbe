// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {-0.00506, -0.0486, 0.13, -0.0134, -0.0701, 0.00696},
    {-0.103, 0.148, -0.194, 0.172, 0.0445, -0.0675},
    {-0.0665, -0.00627, -0.114, 0.0438, 0.156, -0.013},
    {0.252, -0.071, -0.132, -0.0534, 0.00238, 0.00188},
    {0.156, -0.112, -0.0212, 0.0448, -0.067, -0.000133},
    {0.227, 0.0487, -0.21, -0.058, -0.00708, -0.000201},
    {0.131, 0.0853, -0.132, -0.0704, -0.0134, -0.00107},
    {0.161, 0.0439, -0.104, -0.0998, 0.00748, -0.00939},
    {0.0934, 0.0414, -0.0286, -0.0927, 0.00627, -0.0197},
    {0.124, 0.129, 0.00165, 0.0989, -0.19, -0.163},
    {0.959, -0.345, -0.177, -0.275, -0.0323, -0.13},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.177, 1.17, 2.63, 1.56};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-5.05, -1.72, 0, -4.06, -5.28, -4.67};
// clang-format on

} // namespace tuvvo
