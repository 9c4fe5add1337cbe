// From figures with a point to whole ones. A plain cast of what is no number, or too large, may
// give anything; here it never does. All are plain arithmetic and safe on the audio thread.
#pragma once

#include <cmath>
#include <limits>
#include <type_traits>

namespace tuvvo {

/// The whole part of a figure (towards zero), brought into a range; `low` for what is no number.
/// @param low, high  low <= high; both must be exact as double or at the type's own ends
template <class Whole>
[[nodiscard]] constexpr Whole toWholeIn(double value, Whole low, Whole high) {
  static_assert(std::is_integral_v<Whole>);
  if (!(value > double(low))) return low; // also what is no number
  if (!(value < double(high))) return high;
  return static_cast<Whole>(value);
}

/// The whole part of a figure (towards zero); 0 for what is no number. Brought into half of what
/// the type holds (all of it for 8 bits), so that two of them can be added. Not for places in an
/// array, whose ends are nearer: see toWholeIn() and placeIn().
template <class Whole> [[nodiscard]] constexpr Whole toWhole(double value) {
  if (value != value) return 0;
  constexpr int part = sizeof(Whole) > 1 ? 2 : 1;
  return toWholeIn<Whole>(value, std::numeric_limits<Whole>::min() / part,
                          std::numeric_limits<Whole>::max() / part);
}

/// The nearest whole figure, halves away from zero, brought into a range; `low` for what is no
/// number.
template <class Whole> [[nodiscard]] inline Whole toNearestIn(double value, Whole low, Whole high) {
  return toWholeIn(std::round(value), low, high);
}

/// The nearest whole figure, halves away from zero, as toWhole() brings it into its range.
template <class Whole> [[nodiscard]] inline Whole toNearest(double value) {
  return toWhole<Whole>(std::round(value));
}

/// A place in an array from the whole part of a figure: 0 to size − 1; 0 for what is no number.
/// @param size  at least 1
[[nodiscard]] constexpr std::size_t placeIn(double value, std::size_t size) {
  return toWholeIn<std::size_t>(value, 0, size - 1);
}

} // namespace tuvvo
