// Where a sound stands between left and right.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <utility>

namespace tuvvo {

/// Equal-power pan with the middle at unity, so that a centred sound is what its source is. Safe on
/// the audio thread.
/// @param pan  −1 left to 1 right
/// @returns the gains of left and right
[[nodiscard]] inline std::pair<float, float> panned(double gain, double pan) {
  const double angle = (pan + 1) * M_PI / 4;
  return {float(gain * std::min(1.0, std::sqrt(2.0) * std::cos(angle))),
          float(gain * std::min(1.0, std::sqrt(2.0) * std::sin(angle)))};
}

/// Level, pan and width as one: {left from left, left from right, right from left, right from
/// right}. Width scales the sides against the middle: 0 is mono, 2 twice as wide.
[[nodiscard]] inline std::array<float, 4> stereoMatrix(double gain, double pan, double width) {
  const auto [left, right] = panned(gain, pan);
  const auto own = float((1 + width) / 2), other = float((1 - width) / 2);
  return {left * own, left * other, right * other, right * own};
}

} // namespace tuvvo
