// Tempo in MIDI files, which know steps only (Standard MIDI Files 1.0, meta event 51). Inner part
// of formats/.
#pragma once

#include "base/tempo_map.h"

#include <cstdint>
#include <vector>

namespace tuvvo {

struct SmfTempo {
  Beats at;
  std::uint32_t micros = 500'000; ///< of a quarter; 1 to 0xffffff
};

/// A map as steps: a ramp becomes one every 24th of a beat, each as long as it really lasts, so
/// that nothing adds up.
/// @param until  changes from there on are left out
[[nodiscard]] std::vector<SmfTempo> smfTempiOf(const TempoMap& map, Beats until);

/// The other way: the tempo at the start, and the changes after it. Steps that rise or fall evenly
/// and close together are one ramp again.
/// @param tempi  in rising order; without one at the start it is 120 BPM up to the first
struct SmfTempoMap {
  Bpm tempo{120};
  std::vector<TempoChange> changes;
};
[[nodiscard]] SmfTempoMap tempoMapFrom(const std::vector<SmfTempo>& tempi);

} // namespace tuvvo
