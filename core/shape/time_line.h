// Which place of a source sounds when.
#pragma once

#include "cut/fit.h"
#include "model/resolved_source.h"

namespace tuvvo {

/// Straight lines between places of the source and places of the result, in seconds.
struct TimeLine {
  struct Knot {
    double source, result;
    bool operator==(const Knot&) const = default;
  };
  std::vector<Knot> knots; ///< at least two, rising in both
  double length = 0;       ///< of the result
  double beats = 0;        ///< of the beat; 0: does not loop

  bool operator==(const TimeLine&) const = default;
  [[nodiscard]] double sourceAt(double result) const;
  [[nodiscard]] double resultAt(double source) const;
};

/// The beat that a source is brought to.
struct BeatFrame {
  Bpm tempo{90};
  double beatsPerBar = 4; ///< quarters
  Hertz rate{48000};      ///< of the result
};

/// From the source's first downbeat on, whole bars where it has a grid (whole beats where it is
/// shorter than a bar); the whole of it at one speed where it has none.
/// @param speed  of a source without a grid
[[nodiscard]] TimeLine timeLineOf(const ResolvedSource& source, const BeatFrame& beat,
                                  double speed);

} // namespace tuvvo
