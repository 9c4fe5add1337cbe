// Whether the layers of a key take away from each other in the lows.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// Two layers of a key whose lows work against each other, and what mends it.
struct LayersCancel {
  int first = 0, second = 0; ///< which of the key's; 0 is its own sound
  Decibels lost{0};          ///< under what both have apart, by power; above 0
  bool polarity = false;     ///< turning the second one over mends it
  int later = 0;             ///< else the layer that is delayed,
  Milliseconds by{0};        ///< and by how much more
  Decibels after{0};         ///< the same once it is mended; below 0: they add up
};
inline constexpr Hertz kPhaseLows{250};
inline constexpr Decibels kWorthMending{2};

/// The pair of layers that loses most. Each is played once as its key has it, with its delay,
/// level, tune, filters and shape, for the first 400 ms, and what is below kPhaseLows is compared:
/// the power of the sum against the sum of the powers (for two that have nothing to do with each
/// other they are the same). Polarity is preferred where it does nearly as well as the best delay
/// within 10 ms. Left alone are layers that begin more than 30 ms apart, of which one is over 10 dB
/// softer there or has no lows to speak of, and a key whose layers do not sound together.
///
/// Not for the audio thread; a few milliseconds.
/// @returns nothing where no pair loses kWorthMending
[[nodiscard]] std::optional<LayersCancel> layersCancel(const Project& project, const Key& key);

/// The key with that mended.
[[nodiscard]] Project withPhaseMended(Project project, Id key, const LayersCancel& how);

} // namespace tuvvo
