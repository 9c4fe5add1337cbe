// Takes: hits as they were struck, laid into a pattern. Pure.
#pragma once

#include "beat/hits.h"

namespace tuvvo {

/// A hit as the engine reports it, where it was heard.
struct RecordedHit {
  Id key = 0;
  Beats at; ///< in the pattern, any place; brought into it by its length
  double velocity = 0.8;
  Beats length{0}; ///< how long it was held
  Semitones tune{0};
  double start = 0, bright = 0;
  Seconds when{0}; ///< by a steady clock
};

struct TakeOptions {
  int perBeat = 0;      ///< the grid that a hit's place is named on; 0: its part's own
  double strength = -1; ///< 0 keeps what was played as micro-timing; 1 puts it on the grid; −1: as
                        ///< its part says
};

/// The hit that a hit becomes on its key's part: its place is its nearest line, and the rest is its
/// micro-timing, so that quantising later is a matter of strength. Nothing where there is no such
/// key.
[[nodiscard]] std::optional<Hit> hitOf(const RecordedHit& hit, const Pattern& pattern,
                                       const Project& project, const TakeOptions& options);

/// Lays a take into a pattern, each hit on its key's part. Two hits of a key that were played apart
/// stay two: the later one is named on a finer line, unless it was pulled onto the same one.
[[nodiscard]] Pattern withTake(Pattern pattern, const Project& project,
                               const std::vector<RecordedHit>& hits, const TakeOptions& options);

/// Takes away the hits of a key that are heard between two places of the pattern, going round its
/// end where `until` lies before `from`.
[[nodiscard]] Pattern withoutHeard(Pattern pattern, const Project& project, Id key, Beats from,
                                   Beats until);

/// What is pulled when a pattern is quantised after a take.
struct QuantiseOptions {
  Id part = 0;         ///< 0: every part
  Id key = 0;          ///< 0: every key
  double quietest = 0; ///< softer hits (ghosts) stay where they were played; 0 to 1
  int perBeat = 4;     ///< as quantised()
  double strength = 1; ///< 0 to 1
};
[[nodiscard]] Pattern withQuantised(Pattern pattern, const Project& project,
                                    const QuantiseOptions& options);

} // namespace tuvvo
