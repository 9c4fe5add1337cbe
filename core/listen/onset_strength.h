// The curves that tempo and beats are read from.
#pragma once

#include "listen/spectrum.h"

#include <array>
#include <span>
#include <vector>

namespace tuvvo {

/// How strongly something begins, at about 172 frames a second, in five frequency groups from low
/// to high, each less its mean of half a second, rectified and held at four deviations.
struct OnsetStrength {
  static constexpr double kRate = 22050.0 / 128.0; ///< frames a second
  static constexpr int kGroups = 5;
  std::array<std::vector<float>, kGroups> groups;
  std::array<double, kGroups> deviation{}; ///< before scaling; a group's own weight
  /// What sounds, in a third of the frames (57 a second): how strongly kRises bands of pairs of mel
  /// bands begin, then the level of kLevels bands of four, both logarithmic.
  static constexpr double kPictureRate = kRate / 3;
  static constexpr int kRises = 20, kLevels = 10;
  Matrix picture;
  [[nodiscard]] int frames() const { return int(groups[0].size()); }
  /// Groups added up with the given weights.
  [[nodiscard]] std::vector<float> mixed(const std::array<double, kGroups>& weights) const;
};

/// Log-mel flux with a maximum filter (40 bands, 30 to 10 500 Hz, Hann 1024, hop 128 at 22 050 Hz).
/// @param mono  at 22 050 Hz
[[nodiscard]] OnsetStrength onsetStrength(std::span<const float> mono);

} // namespace tuvvo
