// How kicks, snares and hats follow each other: what a tempo is read by. Inner part of hearTime.
#pragma once

#include "listen/analysis.h"

#include <span>

namespace tuvvo {

/// How many hits of a class have one of the other so long after them. Any thread but the audio
/// thread; immutable.
class HitIntervals {
public:
  enum Pair { KickKick, SnareSnare, HatHat, KickSnare, SnareKick };
  static constexpr int kPairs = 5;

  /// @param onsets  in rising order
  explicit HitIntervals(std::span<const Onset> onsets);

  /// The share of hits that are followed by one after a time, within 35 ms: 0 to 1.5 (hits may be
  /// followed by several); 0 for fewer than three of a class, and for more than five seconds.
  [[nodiscard]] double share(Pair pair, double afterS) const;
  /// Kicks by snares and snares by kicks, in the mean.
  [[nodiscard]] double turns(double afterS) const {
    return (share(KickSnare, afterS) + share(SnareKick, afterS)) / 2;
  }

private:
  std::array<std::vector<float>, kPairs> m_shares; ///< by bin
};

} // namespace tuvvo
