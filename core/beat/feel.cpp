#include "beat/feel.h"

#include <algorithm>

namespace tuvvo {

Beats swung(Beats at, double swingPercent, int pairsPerBeat) {
  const double share = std::clamp(swingPercent, 1.0, 99.0) / 100;
  const std::int64_t pair = kTicksPerBeat / std::max(1, pairsPerBeat);
  std::int64_t index = at.value / pair, inside = at.value % pair;
  if (inside < 0) {
    inside += pair;
    --index;
  }
  const double half = double(pair) / 2, x = double(inside);
  const double moved =
      x < half ? x * 2 * share : double(pair) * share + (x - half) * 2 * (1 - share);
  return Beats(index * pair + std::llround(moved));
}

Frames heardAt(const Pin& pin, const Lane& lane, const TempoMap& tempo, Hertz rate) {
  const Beats place = swung(pin.at, lane.swing, lane.swingPairs);
  return tempo.frameAt(place, rate) + toFrames(pin.lean + lane.lean, rate);
}

} // namespace tuvvo
