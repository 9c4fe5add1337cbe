// MIDI clock: 24 pulses to a quarter note, in and out.
#pragma once

#include "base/units.h"

#include <array>
#include <optional>

namespace tuvvo {

inline constexpr int kClocksPerBeat = 24; ///< MIDI 1.0: timing clock

/// Follows a clock that jitters. The tempo is the slope of the straight line of least squares
/// through the last two beats of pulses. Not for the audio thread.
class ClockFollower {
public:
  /// A pulse at a time of a steady clock. A gap of more than half a second begins anew.
  void pulse(Seconds at);
  void reset() { m_count = 0; }
  /// Nothing until a beat of pulses has come.
  [[nodiscard]] std::optional<Bpm> tempo() const;

private:
  static constexpr std::size_t kKept = std::size_t(2) * kClocksPerBeat;
  std::array<double, kKept> m_times{};
  std::size_t m_count = 0; ///< pulses since it began
};

/// When a clock's pulses are due, from where the music stands.
class ClockSender {
public:
  /// Pulses due up to a place, in beats from the music's start, that only grows; a place before the
  /// last one (the loop went round, or someone went back) goes on without a gap.
  /// @returns how many to send now; at most 4, so that a stall is not made up for in a burst
  int due(double beats);
  void reset() { m_next = 0, m_began = false; }

private:
  double m_last = 0, m_done = 0; ///< place, and beats gone by since the start
  std::int64_t m_next = 0;       ///< number of the next pulse
  bool m_began = false;
};

} // namespace tuvvo
