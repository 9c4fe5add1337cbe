// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {0.0226, -0.0239, 0.0738, -0.0359, -0.00709, -0.0294},
    {-0.068, 0.108, -0.116, 0.155, -0.017, -0.0619},
    {-0.0725, -0.0203, -0.0579, 0.0767, 0.119, -0.0454},
    {0.236, -0.0893, -0.144, -0.0201, 0.0178, 0.000419},
    {0.19, -0.157, -0.0794, 0.0576, -0.0116, -6.2e-05},
    {0.199, 0.0206, -0.19, -0.0166, -0.0123, -0.00143},
    {0.132, 0.0583, -0.0722, -0.0883, -0.0295, 0.000128},
    {0.124, -0.0286, -0.0666, -0.0257, 0.00321, -0.00598},
    {0.0732, -0.00951, -0.00619, -0.0396, -0.00597, -0.0119},
    {0.212, 0.0749, -0.0181, 0.039, -0.14, -0.168},
    {0.801, -0.25, -0.126, -0.193, -0.131, -0.102},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.269, 1.13, 2.38, 1.72};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-4.24, -1.56, 0, -3.28, -4.13, -3.49};
// clang-format on

} // namespace tuvvo
