// Second-order filters, made in one place for what is played and for what is baked.
#pragma once

#include "base/units.h"

#include <algorithm>
#include <numbers>

namespace tuvvo {

/// Coefficients of a second-order section, a0 = 1.
struct FilterSection {
  double b0 = 1, b1 = 0, b2 = 0, a1 = 0, a2 = 0;
};

enum class Pass { Low, High, All };

/// Butterworth (Q = 1/√2), 12 dB an octave; All turns the phase as the two ways of a fourth-order
/// crossing do together. After R. Bristow-Johnson's widely used cookbook of formulas.
/// @param at  corner, held below half the rate
[[nodiscard]] inline FilterSection filterSection(Pass pass, Hertz at, Hertz rate) {
  const double w = 2 * std::numbers::pi * std::min(at.value, rate.value * 0.49) / rate.value;
  const double c = std::cos(w), alpha = std::sin(w) / std::numbers::sqrt2, a0 = 1 + alpha;
  const double a1 = -2 * c / a0, a2 = (1 - alpha) / a0;
  switch (pass) {
  case Pass::Low:
    return {(1 - c) / 2 / a0, (1 - c) / a0, (1 - c) / 2 / a0, a1, a2};
  case Pass::High:
    return {(1 + c) / 2 / a0, -(1 + c) / a0, (1 + c) / 2 / a0, a1, a2};
  case Pass::All:
    break;
  }
  return {a2, a1, 1, a1, a2};
}

} // namespace tuvvo
