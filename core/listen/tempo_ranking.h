// Which tempo is felt: candidates and their ranking. Inner part of hearTime.
#pragma once

#include "listen/analysis.h"
#include "listen/onset_strength.h"

namespace tuvvo {

/// What speaks for a tempo: the distance from 110 BPM, then autocorrelation (A) and periodogram (P)
/// of the onset strength at multiples of the beat.
/// l², slow, fast, A1, A2, A3, A4, A6, A8, P¼, P⅓, P½, P1, A½, P2, P4, P8, P3, P6, A⅓, A⅔, one.
using TempoEvidence = std::array<double, 22>;

struct TempoCandidate {
  double bpm = 0;
  double score = 0;       ///< higher is likelier
  double pulse = 0;       ///< 0 to about 1: how periodic the sound is at this tempo at all
  double periodogram = 0; ///< the part of it that whole blocks agree on
  bool triplet = false;   ///< its beats divide in three rather than in two
  TempoEvidence evidence{};
};

/// What a tempo is chosen from.
struct TempoRanking {
  std::vector<TempoCandidate> candidates; ///< 50 to 215 BPM, best first; may be empty
  std::vector<float> curve;               ///< see TempoHeard::curve; empty with the candidates
};

/// Nothing when there is nothing periodic.
[[nodiscard]] TempoRanking rankTempos(const OnsetStrength& strength);

} // namespace tuvvo
