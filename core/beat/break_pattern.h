// From what a break plays to hits. Inner part of beat/.
#pragma once

#include "beat/read_break.h"

#include <functional>

namespace tuvvo {

/// What plays one hit of a reading; key 0 leaves it out.
struct KeyHit {
  Id key = 0;
  double velocity = 0.8;
};

/// One hit a hit, at the beat's tempo (half and double folded in), on sixteenths, or on thirds of a
/// beat where hits agree with those clearly better; what is off the line is micro-timing. Without a
/// name.
[[nodiscard]] Pattern breakPattern(const Project& project, const Source& source,
                                   const BreakReading& reading,
                                   const std::function<KeyHit(const ReadHit&)>& playedBy);

/// Adds a pattern, or writes the one of its name anew; or lays its hits into another one. A pattern
/// without hits is not added: 0.
/// @param into  as in withBreakPlayed()
[[nodiscard]] Project withPatternLaid(Project project, Pattern pattern, Id into, Id* id);

} // namespace tuvvo
