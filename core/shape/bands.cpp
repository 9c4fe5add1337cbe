#include "shape/bands.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace tuvvo {

namespace {

/// A second-order section, after R. Bristow-Johnson's widely used cookbook of formulas.
struct Section {
  double b0, b1, b2, a1, a2;
  void run(std::vector<float>& samples) const {
    double z1 = 0, z2 = 0;
    for (float& sample : samples) {
      const double x = double(sample), y = b0 * x + z1;
      z1 = b1 * x - a1 * y + z2;
      z2 = b2 * x - a2 * y;
      sample = float(y);
    }
  }
};

enum class Pass { Low, High, All };

/// Butterworth (Q = 1/√2).
Section section(Pass pass, Hertz at, Hertz rate) {
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

} // namespace

void keepBand(Channels& sound, BandKept keep, Hertz low, Hertz high, Hertz rate) {
  for (auto& channel : sound) {
    const auto twice = [&](Pass pass, Hertz at) {
      const Section s = section(pass, at, rate);
      s.run(channel);
      s.run(channel);
    };
    if (keep == BandKept::Low) {
      twice(Pass::Low, low);
      section(Pass::All, high, rate).run(channel); // what both ways of the upper crossing add up to
      continue;
    }
    twice(Pass::High, low);
    twice(keep == BandKept::Middle ? Pass::Low : Pass::High, high);
  }
}

void keepSides(Channels& sound, bool sides) {
  for (std::size_t i = 0; i < sound[0].size(); ++i) {
    const float l = sound[0][i], r = sound[1][i];
    const float kept = (sides ? l - r : l + r) / 2;
    sound[0][i] = kept;
    sound[1][i] = sides ? -kept : kept;
  }
}

} // namespace tuvvo
