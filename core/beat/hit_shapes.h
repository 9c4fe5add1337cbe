// Several hits shaped together: strummed, spread, louder and softer, dealt anew, humanised. All
// pure; each keeps the order of what it is given.
#pragma once

#include "beat/pattern_edits.h"

namespace tuvvo {

/// Hits that stand at one place follow one another by their tunes, the lowest at its own time. What
/// they had of micro-timing goes, so that another strum lays them anew.
/// @param step  from one to the next; −60 to 60 ms, negative: from the highest down
[[nodiscard]] HitClip strummed(HitClip chosen, Milliseconds step);

/// Places at even distances from the first to the last; hits of one place stay together.
[[nodiscard]] HitClip evenlySpaced(HitClip chosen);
/// Pan from the left to the right in the order of their places, and of their tunes at one place.
/// @param width  0 (all in the middle) to 1; negative: from the right
[[nodiscard]] HitClip pannedAcross(HitClip chosen, double width);

enum class VelocityShape {
  Rise,     ///< evenly by place, to the hardest of them
  Fall,     ///< evenly by place, from the hardest of them
  Arch,     ///< hardest in the middle
  Dip,      ///< softest in the middle
  Alternate ///< hard and soft in turn
};
/// The hardest keeps its velocity; the softest gets `depth` less of it.
/// @param depth  0 (all as hard as the hardest) to 0.95; hits of one place stay as they are
[[nodiscard]] HitClip velocityShaped(HitClip chosen, VelocityShape shape, double depth);

/// Places, velocities and timing stay; what is played there (key, tune, start, direction, pan,
/// brightness) is dealt anew among hits of one part.
[[nodiscard]] HitClip dealtAnew(HitClip chosen, std::uint64_t seed);

/// Every hit gets a deviation of its own, once, written into it.
/// @param timing    about two thirds lie this near to where they were; 0 to 40 ms
/// @param velocity  the same of velocities; 0 to 0.4
[[nodiscard]] HitClip humanised(HitClip chosen, Milliseconds timing, double velocity,
                                std::uint64_t seed);

} // namespace tuvvo
