// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {-0.0746, -0.051, 0.329, -0.112, -0.0157, -0.0756},
    {-0.287, 0.133, -0.364, 0.161, 0.257, 0.1},
    {0.0222, -0.0267, -0.161, -0.0129, 0.117, 0.061},
    {0.205, 0.0185, -0.234, -0.0142, 0.0188, 0.0054},
    {0.117, -0.117, -0.0387, 0.064, -0.0314, 0.00548},
    {0.239, 0.0881, -0.229, -0.105, 0.00567, 0.000468},
    {0.129, 0.0932, -0.122, -0.138, 0.0355, 0.00212},
    {0.214, 0.116, -0.102, -0.222, -0.00451, -0.00241},
    {0.0926, 0.0535, -0.033, -0.127, 0.0162, -0.00257},
    {-0.0372, 0.264, 0.0835, 0.154, -0.26, -0.203},
    {1.23, -0.372, -0.242, -0.307, -0.0898, -0.215},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.495, 0.678, 2.13, 1.75};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-3.86, -1.27, 0, -2.13, -3.08, -2.23};
// clang-format on

} // namespace tuvvo
