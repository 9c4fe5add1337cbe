// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {0.0314, -0.0237, 0.0802, -0.0514, -0.00692, -0.0295},
    {-0.0699, 0.1, -0.114, 0.161, -0.0155, -0.0625},
    {-0.0752, -0.0216, -0.0551, 0.0815, 0.117, -0.0462},
    {0.227, -0.0872, -0.139, -0.0241, 0.0225, 0.000408},
    {0.174, -0.152, -0.0522, 0.0426, -0.0119, -8.61e-05},
    {0.206, 0.0184, -0.198, -0.016, -0.00908, -0.00143},
    {0.138, 0.052, -0.0753, -0.093, -0.0217, 0.000119},
    {0.125, -0.0206, -0.0638, -0.0345, -0.000302, -0.00595},
    {0.0667, -0.000327, -0.00263, -0.0461, -0.00567, -0.0119},
    {0.221, 0.0666, -0.0183, 0.0389, -0.14, -0.168},
    {0.808, -0.249, -0.135, -0.186, -0.137, -0.102},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.363, 0.996, 2.37, 1.66};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-4.14, -1.57, 0, -3.32, -4.14, -3.5};
// clang-format on

} // namespace tuvvo
