#include "midi/velocity_curve.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {
constexpr double kSoftest = 0.1, kMiddle = 0.6; ///< what is heard of the softest and the middle
constexpr int kLeastRange = 12;
} // namespace

double VelocityCurve::velocityOf(int sent) const {
  const double range = std::max(1, hardest - softest);
  const double share = std::clamp((sent - softest) / range, 0.0, 1.0);
  return kSoftest + (1 - kSoftest) * std::pow(share, bend);
}

std::optional<VelocityCurve> curveOf(std::vector<int> strikes) {
  std::erase_if(strikes, [](int sent) { return sent < 1 || sent > 127; });
  if (strikes.size() < 5) return std::nullopt;
  std::sort(strikes.begin(), strikes.end());
  VelocityCurve curve;
  curve.softest = strikes.front();
  curve.hardest = strikes.back();
  if (curve.hardest - curve.softest < kLeastRange) return std::nullopt;
  const std::size_t half = strikes.size() / 2;
  const double middle =
      strikes.size() % 2 == 1 ? strikes[half] : (strikes[half - 1] + strikes[half]) / 2.0;
  const double share =
      std::clamp((middle - curve.softest) / (curve.hardest - curve.softest), 0.02, 0.98);
  const double wanted = (kMiddle - kSoftest) / (1 - kSoftest);
  curve.bend = std::clamp(std::log(wanted) / std::log(share), 0.25, 4.0);
  return curve;
}

} // namespace tuvvo
