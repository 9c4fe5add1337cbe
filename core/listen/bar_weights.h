// The learnt picture of a bar, fitted by bench/listening/fit_bars.py on the open half of its
// corpus.
#pragma once

#include <array>
#include <cstddef>

namespace tuvvo {

inline constexpr double kMeterMargin =
    0.08;                                   ///< by which another meter must repeat better than four
inline constexpr double kStartsOnOne = 2.5; ///< in favour of a loop's first frame, in nepers

/// Low, middle and high onsets; change of harmony and of bass over one, two and four beats. For
/// each: beats one to four, the eighths between beats, the sixteenths between those.
inline constexpr std::array<std::array<double, 6>, 9> kBarWeights{{
    {0.77, -0.10, -0.24, -0.00, -0.17, -0.25},
    {0.34, 0.20, -0.63, 0.37, 0.01, -0.29},
    {0.14, 0.51, -0.09, 0.27, -0.38, -0.44},
    {1.11, -0.74, -0.30, -0.05, 0.01, -0.02},
    {0.67, -0.47, -0.28, -0.20, 0.32, -0.05},
    {0.43, -0.04, -0.08, -0.14, -0.17, -0.01},
    {0.12, 0.23, -0.18, -0.04, -0.12, -0.01},
    {0.27, 0.04, -0.02, -0.10, -0.17, -0.02},
    {0.06, 0.09, 0.03, -0.08, -0.05, -0.04},
}};

/// The weight of a feature on a slot of a bar. Other meters take their first and last beat from the
/// first and fourth; triplets count as the divisions of a beat.
inline double barWeight(std::size_t feature, int slot, int meter, int perBeat) {
  const auto& weights = kBarWeights[feature];
  const int beat = slot / perBeat, division = slot % perBeat;
  if (division != 0) return perBeat == 4 && division == 2 ? weights[4] : weights[5];
  if (beat == 0) return weights[0];
  if (meter == 4) return weights[std::size_t(beat)];
  return beat == meter - 1 ? weights[3] : (weights[1] + weights[2]) / 2;
}

} // namespace tuvvo
