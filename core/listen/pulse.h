// The lattice of beats: one tempo and one phase, or a path that follows a player or a worn disc.
#pragma once

#include "listen/onset_strength.h"

#include <utility>

namespace tuvvo {

/// Beats counted along time. Which of the lattice's divisions is a beat, and which beat is the
/// first of a bar, is decided later (bars.h).
struct Pulse {
  double bpm = 0;       ///< of the whole
  bool triplet = false; ///< beats divide in three
  bool steady = true;
  double gain = 1;    ///< what following gained over one phase; 1 and above
  double driftMs = 0; ///< typical distance of the followed beats from even ones; 0 when steady
  /// (time in s, position in beats), rising in both; straight lines between and beyond.
  std::vector<std::pair<double, double>> knots;

  [[nodiscard]] double beatsAt(double timeS) const;
  [[nodiscard]] double timeOf(double beats) const;
};

/// Demodulates the onset strength at harmonics of the beat, in windows of 6 s, and finds the path
/// of phase and tempo that gathers most of it (Viterbi; after the predominant local pulse of
/// Grosche & Müller 2011). What following hardly betters is steady.
/// @param bpm  the tempo of the whole, right to about 1 %
[[nodiscard]] Pulse followPulse(const OnsetStrength& strength, double bpm, bool triplet);

} // namespace tuvvo
