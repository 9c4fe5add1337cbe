// How many notes of what length make a bar.
#pragma once

#include "base/units.h"

#include <optional>
#include <string>

namespace tuvvo {

/// 4/4, 6/8, 7/8, 5/4. A beat of the tempo stays a quarter whatever the meter is.
struct Meter {
  int beats = 4; ///< 1 to 32
  int unit = 4;  ///< the note that is counted: 1, 2, 4, 8, 16 or 32
  constexpr bool operator==(const Meter&) const = default;
};
inline constexpr int kMostMeterBeats = 32, kShortestUnit = 32;

/// The note that is counted.
constexpr Beats unitOf(Meter meter) { return Beats(kTicksPerBeat * 4 / meter.unit); }
constexpr Beats barOf(Meter meter) { return unitOf(meter) * meter.beats; }
/// Quarters in a bar: 3.5 of 7/8.
constexpr double quartersOf(Meter meter) { return inBeats(barOf(meter)); }
/// A bar of whole quarters, as many as are heard in a source.
constexpr Meter quarters(int beats) { return {beats, 4}; }

/// What a foot taps: three units where units are eighths or shorter and come in threes (6/8, 9/8,
/// 12/8: compound time), else one unit.
constexpr Beats pulseOf(Meter meter) {
  const bool compound = meter.unit >= 8 && meter.beats > 3 && meter.beats % 3 == 0;
  return unitOf(meter) * (compound ? 3 : 1);
}

/// "7/8"
[[nodiscard]] std::string nameOf(Meter meter);
/// @returns nothing for what is no meter or out of range
[[nodiscard]] std::optional<Meter> meterFromName(const std::string& name);

} // namespace tuvvo
