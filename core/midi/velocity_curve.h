// From what a controller sends to how hard a hit is.
#pragma once

#include <optional>
#include <vector>

namespace tuvvo {

/// What a controller's softest, middle and hardest strikes become. A value; safe on any thread.
struct VelocityCurve {
  int softest = 1, hardest = 127; ///< what it sends; outside of them nothing changes any more
  double bend = 1;                ///< power of the way between them; 0.25 to 4
  bool operator==(const VelocityCurve&) const = default;

  /// @param sent  1 to 127
  /// @returns 0.1 for the softest to 1 for the hardest
  [[nodiscard]] double velocityOf(int sent) const;
};

/// The curve of a hand and a controller, from a few strikes: two soft ones, two middle ones and two
/// hard ones, in any order. The softest and the hardest become the ends, and the one in the middle
/// becomes the middle of what is heard.
/// @returns nothing for fewer than five strikes, or where all are nearly the same
[[nodiscard]] std::optional<VelocityCurve> curveOf(std::vector<int> strikes);

} // namespace tuvvo
