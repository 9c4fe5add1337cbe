// The only bridge between musical time (ticks) and time in seconds or frames.
#pragma once

#include "base/units.h"

namespace tuvvo {

/// One tempo from beat zero on. A value; safe on the audio thread.
class TempoMap {
public:
  /// @param tempo  20 to 400 BPM; anything else is brought into that range
  explicit TempoMap(Bpm tempo);

  [[nodiscard]] Bpm tempo() const { return m_tempo; }
  /// beat = 60 / BPM seconds
  [[nodiscard]] Seconds secondsAt(Beats at) const;
  [[nodiscard]] Beats beatsAt(Seconds at) const;            ///< nearest tick
  [[nodiscard]] Frames frameAt(Beats at, Hertz rate) const; ///< nearest frame
  [[nodiscard]] Beats beatsAt(Frames at, Hertz rate) const;
  [[nodiscard]] double framesPerBeat(Hertz rate) const { return 60.0 * rate.value / m_tempo.value; }

private:
  Bpm m_tempo;
};

inline constexpr Bpm kSlowestTempo{20.0};
inline constexpr Bpm kFastestTempo{400.0};

} // namespace tuvvo
