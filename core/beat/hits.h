// Writing, moving and choosing hits. All pure.
#pragma once

#include "beat/resolved_timing.h"

namespace tuvvo {

[[nodiscard]] Beats lengthOf(const Pattern& pattern);
/// After how long a lane comes round: its own length or the pattern's.
[[nodiscard]] Beats lengthOf(const Pattern& pattern, const Lane& lane);
[[nodiscard]] Beats laneLength(const Pattern& pattern, Id part);

/// After how long all lanes begin together again: the pattern's length where none has its own.
/// Nothing where that is longer than kMostMeeting.
[[nodiscard]] std::optional<Beats> meetingOf(const Pattern& pattern);
inline constexpr Beats kMostMeeting = wholeBeats(1024);

/// Hits in an order by which one is quickly found; a set of values.
class HitSet {
public:
  HitSet() = default;
  explicit HitSet(std::vector<Hit> hits);
  [[nodiscard]] bool contains(const Hit& hit) const;

private:
  std::vector<Hit> m_hits;
};

/// Adds a hit on its part's lane, inside the pattern; one that stands there for the same key and
/// tune goes.
[[nodiscard]] Pattern withHit(Pattern pattern, Id part, const Hit& hit);
/// Quantises: brings hits towards a grid: a hit's place and micro-timing together move by strength
/// of the way to the nearest line, and what is left stays as micro-timing, so that nothing that was
/// played is lost.
/// @param perBeat   lines in a beat: 1 to 32
/// @param strength  0 (as it is) to 1 (on the line)
[[nodiscard]] Lane quantised(const Project& project, Meter meter, Lane lane, int perBeat,
                             double strength);

/// Makes a pattern as many bars long; what it had is repeated into new bars when it grows by
/// doubling, and cut off hits are dropped when it shrinks. Lanes of their own length stay.
[[nodiscard]] Pattern withBars(Pattern pattern, int bars);

} // namespace tuvvo
