// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {-0.168, -0.133, 0.233, 0.0518, -0.102, 0.118},
    {-0.199, 0.222, -0.252, 0.28, 0.0872, -0.138},
    {-0.118, -0.128, -0.0582, -0.00726, 0.24, 0.0713},
    {0.278, 0.0285, -0.234, -0.0619, -0.0174, 0.0066},
    {0.237, -0.204, -0.0281, 0.157, -0.166, 0.00297},
    {0.215, 0.148, -0.222, -0.129, -0.0092, -0.00227},
    {0.184, 0.165, -0.183, -0.14, -0.0205, -0.00612},
    {0.179, 0.041, -0.0514, -0.163, 0.0199, -0.026},
    {0.0824, -0.0355, 0.0261, -0.0393, 0.0144, -0.048},
    {-0.00679, 0.165, 0.137, 0.161, -0.252, -0.203},
    {1.22, -0.406, -0.309, -0.388, 0.0404, -0.155},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.54, 0.695, 2.38, 1.75};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-4.63, -1.47, 0, -3.24, -4.31, -3.44};
// clang-format on

} // namespace tuvvo
