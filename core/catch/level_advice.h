// What to do about the level of what comes in.
#pragma once

#include <cstdint>

#include <string>

namespace tuvvo {

/// Peaks of a good recording at 24 bits and more lie here: far enough from clipping, far enough
/// from the noise (common practice, no source; EBU R 68 aligns programme peaks to −9 dBFS).
inline constexpr double kTargetLowDb = -18, kTargetHighDb = -6;

struct LevelAdvice {
  enum class Is { Silent, Quiet, Good, Loud, Clipped } is = Is::Silent;
  double change = 0; ///< dB to the middle of the target; 0 where it is good
};
/// @param held   the highest peak of the last seconds, of full scale
/// @param clips  since they were last forgotten
[[nodiscard]] LevelAdvice adviceFor(float held, std::uint32_t clips);

} // namespace tuvvo
