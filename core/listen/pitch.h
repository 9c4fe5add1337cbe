// The pitch of one sounding note.
#pragma once

#include "base/units.h"

#include <optional>
#include <span>

namespace tuvvo {

struct PitchHeard {
  Hertz pitch{0};
  double clarity = 0; ///< 0 to 1: how exactly the wave repeats
};

/// Fundamental between 27 and 2000 Hz of up to 0.37 s, by the cumulative mean normalised difference
/// (de Cheveigné & Kawahara 2002, "YIN", steps 1 to 5; threshold 0.15).
/// @param mono  at 22 050 Hz, at least 0.05 s
/// @returns nothing where the wave does not repeat
[[nodiscard]] std::optional<PitchHeard> hearPitch(std::span<const float> mono);

} // namespace tuvvo
