// Written by bench/listening/fit_bars.py: the picture of a bar, and the choice of the meter.
#pragma once

#include <array>

namespace tuvvo {

// clang-format off
/// By feature of BarPicture: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 11> kBarWeights{{
    {-0.152, -0.0291, 0.191, 0.119, -0.0316, -0.0971},
    {-0.0167, 0.0821, -0.13, 0.167, -0.071, -0.0314},
    {-0.0811, -0.0193, -0.33, 0.0556, 0.285, 0.0903},
    {0.35, -0.143, -0.058, -0.164, 0.0151, -0.000488},
    {0.215, -0.241, 0.0491, 0.0862, -0.0996, -0.00959},
    {0.214, 0.059, -0.163, -0.081, -0.0236, -0.00553},
    {0.182, 0.0989, -0.219, -0.0502, -0.0084, -0.00327},
    {0.138, 0.0966, -0.0199, -0.195, 0.00468, -0.0246},
    {0.13, 0.0599, -0.0365, -0.147, 0.0369, -0.0432},
    {-0.0623, 0.197, 0.0486, 0.198, -0.195, -0.187},
    {1.23, -0.466, -0.253, -0.255, -0.0431, -0.217},
}};
/// Of what speaks for a meter: again, later, stress, whole.
inline constexpr std::array<double, 4> kMeterWeights{0.298, 2.05, 2.09, 1.64};
/// In favour of two to seven beats, in nepers; four is 0.
inline constexpr std::array<double, 6> kMeterPriors{-4.28, -1.12, 0, -3.61, -5.21, -4.57};
// clang-format on

} // namespace tuvvo
