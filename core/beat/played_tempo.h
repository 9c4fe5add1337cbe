// The tempo of what was played without a click. Pure.
#pragma once

#include "base/units.h"

#include <optional>
#include <vector>

namespace tuvvo {

struct PlayedHit {
  Seconds at;
  double velocity = 0.8;
};

struct PlayedTempo {
  Bpm bpm;
  Seconds downbeat;           ///< the first hit's beat
  double steadiness = 0;      ///< 0 to 1: how well the hits stand on one grid
  std::vector<Bpm> otherwise; ///< half and double and the like, likeliest first
};

/// The tempo of hits played by hand: the grid on which they stand best (the resonance of their
/// times with a period, as in the periodogram of events of M. S. Bartlett 1963), the beat of it
/// that is likeliest by tempo and by accents, and then the straight line of least squares through
/// all hits on their lines. Hits may be any number of lines apart.
/// @param hits  in rising order; at least 4, spanning at least a second
/// @returns nothing for fewer, or where no grid holds them
[[nodiscard]] std::optional<PlayedTempo> tempoOfHits(const std::vector<PlayedHit>& hits);

} // namespace tuvvo
