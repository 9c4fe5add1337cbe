// Which tempo is felt: candidates and their ranking. Inner part of hearTime.
#pragma once

#include "listen/onset_strength.h"

namespace tuvvo {

struct TempoCandidate {
  double bpm = 0;
  double score = 0;    ///< higher is likelier
  double salience = 0; ///< 0 to 1: how periodic the sound is at this tempo at all
};

/// Candidates from 50 to 215 BPM, best first; empty when there is nothing periodic.
[[nodiscard]] std::vector<TempoCandidate> rankTempos(const OnsetStrength& strength);

/// The frequency that makes the whole file's periodogram largest near a tempo.
/// @param bpm    start, right to within about ±.4 %
[[nodiscard]] double refineTempo(const OnsetStrength& strength, double bpm);

} // namespace tuvvo
