// Tempo from taps of a finger.
#pragma once

#include "base/units.h"

#include <optional>
#include <vector>

namespace tuvvo {

struct TappedTempo {
  Bpm bpm;
  double uncertaintyBpm; ///< one standard error of the tempo; shrinks with every even tap
  int taps;
};

/// Regression of tap times over tap numbers; a tap more than 2.5 s after the last begins anew, and
/// an interval near a whole multiple of the rest counts as missed taps.
class TapTempo {
public:
  /// @param at  rising times on any one clock
  void tap(Seconds at);
  void reset() { m_taps.clear(); }
  /// From two taps on. With two the uncertainty is that of a hand (20 ms a tap, common practice,
  /// no source); with more it comes from the taps themselves, and is never below 2 ms a tap.
  [[nodiscard]] std::optional<TappedTempo> tempo() const;

private:
  std::vector<double> m_taps;
};

} // namespace tuvvo
