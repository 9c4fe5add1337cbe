// The only bridge between musical time (ticks) and time in seconds or frames.
#pragma once

#include "base/units.h"

#include <span>
#include <vector>

namespace tuvvo {

inline constexpr Bpm kSlowestTempo{20.0};
inline constexpr Bpm kFastestTempo{400.0};

/// Frames of a beat: 60 · rate / BPM.
constexpr double framesOfBeat(Bpm tempo, Hertz rate) { return 60.0 * rate.value / tempo.value; }

/// A place where the tempo is said anew.
struct TempoChange {
  Beats at;
  Bpm tempo;         ///< from there on
  bool ramp = false; ///< it is reached evenly, beat by beat, on the way from the change before
  bool operator==(const TempoChange&) const = default;
};

/// A tempo from beat zero on that may step and ramp. A value. All that asks is safe on the audio
/// thread; what makes and copies a map allocates.
///
/// On a ramp the tempo is linear in beats, v(b) = v0 + k·b, so that time is the integral of 60 / v:
/// 60 / k · ln(v / v0) seconds. Before beat zero the first tempo holds.
class TempoMap {
public:
  /// @param tempo    20 to 400 BPM; anything else is brought into that range
  /// @param changes  in any order; those at or before zero are left out, and of several at one
  ///                 place the last one holds
  explicit TempoMap(Bpm tempo, std::span<const TempoChange> changes = {});

  /// One tempo throughout.
  [[nodiscard]] bool steady() const { return m_spans.size() == 1; }
  [[nodiscard]] Bpm tempoAt(Beats at) const { return tempoAt(double(at.value)); }
  [[nodiscard]] Bpm tempoAt(double ticks) const;
  /// The place lies on the way to another tempo.
  [[nodiscard]] bool ramps(double ticks) const;
  /// The next place where the tempo is said anew; far beyond any music where there is none.
  [[nodiscard]] Beats changeAfter(Beats at) const;

  [[nodiscard]] Seconds secondsAt(Beats at) const;
  [[nodiscard]] Beats beatsAt(Seconds at) const;            ///< nearest tick
  [[nodiscard]] Frames frameAt(Beats at, Hertz rate) const; ///< nearest frame
  [[nodiscard]] Beats beatsAt(Frames at, Hertz rate) const;

  /// Between ticks and between frames; nothing is rounded.
  [[nodiscard]] double framesAt(double ticks, Hertz rate) const;
  [[nodiscard]] double ticksAt(double frames, Hertz rate) const;
  /// From one place to another; of one tempo the exact quotient.
  [[nodiscard]] double framesBetween(double fromTicks, double toTicks, Hertz rate) const;
  /// Frames of a beat at the tempo of a place.
  [[nodiscard]] double framesPerBeat(Hertz rate, double ticks = 0) const {
    return framesOfBeat(tempoAt(ticks), rate);
  }

  bool operator==(const TempoMap&) const = default;

private:
  /// From one change to the next.
  struct Span {
    double start = 0;   ///< ticks
    double seconds = 0; ///< at the start
    double bpm = 90;    ///< at the start
    double rise = 0;    ///< BPM a tick; 0: steady
    bool operator==(const Span&) const = default;
  };
  [[nodiscard]] const Span& spanAt(double ticks) const;
  [[nodiscard]] const Span& spanAtSeconds(double seconds) const;
  /// Time from a span's start on, times a rate.
  [[nodiscard]] static double timeIn(const Span& span, double ticks, double rate);

  std::vector<Span> m_spans; ///< in rising order, the first at 0; never empty
};

} // namespace tuvvo
