#include "play/filter_response.h"

#include "play/score.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

// |H|² = 1 / ((1 − r²)² + d²r²) with r the ratio of the warped frequencies (low-pass), r⁴ over the
// same (high-pass): the bilinear transform of a second-order section with damping d.
double filterResponseDb(const Key& key, double hz, double level) {
  const double damping = std::sqrt(2.0) / gainOf(key.resonance);
  const auto warped = [](double f) {
    return std::tan(M_PI * std::clamp(f, 16.0, 20'000.0) / kEngineRate.value);
  };
  double db = 0;
  const auto add = [&](double corner, double none, double moves, bool high) {
    if (corner <= 0 && (high ? moves <= 0 : moves >= 0)) return;
    const double at = (corner > 0 ? corner : none) * std::exp2(moves * level);
    const double r = warped(hz) / warped(at), r2 = r * r;
    const double below = (1 - r2) * (1 - r2) + damping * damping * r2;
    db += 10 * std::log10((high ? r2 * r2 : 1) / below);
  };
  add(key.highPass.value, 20, key.filterEnvelope.highMoves, true);
  add(key.lowPass.value, 20'000, key.filterEnvelope.lowMoves, false);
  return std::max(-120.0, db);
}

} // namespace tuvvo
