// The pitch of one sounding note.
#pragma once

#include "base/units.h"
#include "listen/spectrum.h"

#include <optional>

namespace tuvvo {

struct PitchHeard {
  Hertz pitch{0};
  double clarity = 0; ///< 0 to 1: how exactly the wave repeats
};

/// The cumulative mean normalised difference (de Cheveigné & Kawahara 2002, "YIN", steps 1 to 5;
/// threshold 0.15) at 11 025 Hz. One thread at a time.
class PitchFinder {
public:
  PitchFinder();
  /// Fundamental between 27 and 2000 Hz of the first 0.19 s.
  /// @param mono  at 22 050 Hz, at least 0.05 s
  /// @returns nothing where the wave does not repeat
  [[nodiscard]] std::optional<PitchHeard> find(std::span<const float> mono);

private:
  void correlate(std::span<const float> x, std::size_t window, std::vector<double>& out);
  Fft m_fft;
  std::vector<std::complex<float>> m_part;
};

} // namespace tuvvo
