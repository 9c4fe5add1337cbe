// Writing and moving pins. All pure.
#pragma once

#include "model/project.h"

#include <functional>

namespace tuvvo {

[[nodiscard]] Beats lengthOf(const Pattern& pattern, int beatsPerBar);

/// Adds a pin on its part's lane, inside the pattern; one that stands there for the same key goes.
[[nodiscard]] Pattern withPin(Pattern pattern, Id part, const Pin& pin, int beatsPerBar);
/// Takes away every pin that equals one of these.
[[nodiscard]] Pattern withoutPins(Pattern pattern, Id part, const std::vector<Pin>& pins);
/// Changes every pin that equals one of these.
[[nodiscard]] Pattern withPinsChanged(Pattern pattern, Id part, const std::vector<Pin>& pins,
                                      const std::function<void(Pin&)>& change);

/// Pulls pins towards a grid: a pin's place and lean together move by strength of the way to the
/// nearest line, and what is left stays as lean, so that nothing that was played is lost.
/// @param perBeat   lines in a beat: 1, 2, 3, 4, 6 or 8
/// @param strength  0 (as it is) to 1 (on the line)
[[nodiscard]] Lane quantised(Lane lane, int perBeat, double strength, Bpm tempo);

/// The nearest of perBeat lines in a beat, where swing puts them; as it is without swing.
[[nodiscard]] Beats nearestLine(Beats heard, const Lane& lane, int perBeat);

/// Makes a pattern as many bars long; what it had is repeated into new bars when it grows by
/// doubling, and cut off pins are dropped when it shrinks.
[[nodiscard]] Pattern withBars(Pattern pattern, int bars, int beatsPerBar);

} // namespace tuvvo
