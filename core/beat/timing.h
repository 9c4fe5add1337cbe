// How a take was played: early, late, how evenly. Pure.
#pragma once

#include "beat/take.h"

#include <map>

namespace tuvvo {

/// One hit beside where it could have been.
struct TimedHit {
  Id key = 0;
  Beats line;     ///< of the grid, in the pattern
  double bar = 0; ///< since the take began
  double velocity = 0;
  Milliseconds offGrid{0}; ///< late (+) or early (−) of the straight grid
  Milliseconds offFeel{0}; ///< the same of its part's swing and micro-timing
};

/// Figures of several hits: mean, spread (standard deviation) and how the offset changes.
struct TimingFigures {
  int hits = 0;
  Milliseconds mean{0}, spread{0};
  Milliseconds trend{0};      ///< later (+) or earlier (−) with every bar: least squares
  Milliseconds trendError{0}; ///< standard error of the trend
};

struct PartTiming {
  Id part = 0;
  std::vector<TimedHit> hits; ///< in the order they were played
  TimingFigures grid, feel;
};

struct TimingPicture {
  std::vector<PartTiming> parts; ///< in the order of the project
  TimingFigures all;             ///< against the feel
  std::string sentence;          ///< what there is to say, in one sentence
};

/// @param hits  as they were played, with `at` counting on over the rounds
[[nodiscard]] TimingPicture timingOf(const Project& project, const Pattern& pattern,
                                     const std::vector<RecordedHit>& hits);

[[nodiscard]] TimingFigures figuresOf(const std::vector<TimedHit>& hits, bool feel);

} // namespace tuvvo
