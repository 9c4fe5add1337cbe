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

/// What stands out most in a take; words/timing_words.h says it.
enum class TimingVerdict {
  None,    ///< there is no take
  TooFew,  ///< hits to say anything about
  Trend,   ///< it drags or rushes: `all.trend`
  PartOff, ///< one part lies early or late of its feel: `odd`
  Steady,  ///< neither; `all.spread` says how even it is
};

struct TimingPicture {
  std::vector<PartTiming> parts; ///< in the order of the project
  TimingFigures all;             ///< against the feel
  TimingVerdict verdict = TimingVerdict::None;
  std::optional<std::size_t> odd; ///< the one of `parts` that lies furthest from its feel

  /// Whether the ear takes it for evenly played.
  [[nodiscard]] bool even() const;
};

/// @param hits  as they were played, with `at` counting on over the rounds
[[nodiscard]] TimingPicture timingOf(const Project& project, const Pattern& pattern,
                                     const std::vector<RecordedHit>& hits);

[[nodiscard]] TimingFigures figuresOf(const std::vector<TimedHit>& hits, bool feel);

} // namespace tuvvo
