#include "catch/level_advice.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

LevelAdvice adviceFor(float held, std::uint32_t clips) {
  const double db = held > 0 ? 20 * std::log10(double(held)) : -200;
  const double change = (kTargetLowDb + kTargetHighDb) / 2 - db;
  using Is = LevelAdvice::Is;
  if (clips > 0) return {Is::Clipped, std::min(change, -6.0)};
  if (db < -60) return {Is::Silent, 0};
  if (db < kTargetLowDb) return {Is::Quiet, change};
  if (db > kTargetHighDb) return {Is::Loud, change};
  return {Is::Good, 0};
}

} // namespace tuvvo
