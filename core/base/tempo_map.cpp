#include "base/tempo_map.h"

#include "base/convert.h"

#include <algorithm>

namespace tuvvo {

TempoMap::TempoMap(Bpm tempo)
    : m_tempo(std::clamp(tempo.value, kSlowestTempo.value, kFastestTempo.value)) {}

Seconds TempoMap::secondsAt(Beats at) const { return Seconds(inBeats(at) * 60.0 / m_tempo.value); }

Beats TempoMap::beatsAt(Seconds at) const {
  return Beats(toNearest<std::int64_t>(at.value * m_tempo.value / 60.0 * double(kTicksPerBeat)));
}

Frames TempoMap::frameAt(Beats at, Hertz rate) const {
  // One rounding, of the exact quotient, so that long songs do not gather error.
  return Frames(toNearest<std::int64_t>(double(at.value) * 60.0 * rate.value /
                                        (m_tempo.value * double(kTicksPerBeat))));
}

Beats TempoMap::beatsAt(Frames at, Hertz rate) const { return beatsAt(toSeconds(at, rate)); }

} // namespace tuvvo
