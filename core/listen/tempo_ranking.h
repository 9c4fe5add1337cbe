// Which tempo is felt: candidates and their ranking. Inner part of hearTime.
#pragma once

#include "listen/analysis.h"
#include "listen/beat_sense.h"
#include "listen/hit_intervals.h"

namespace tuvvo {

/// What speaks for a tempo: the distance from 110 BPM, then autocorrelation (A) and periodogram (P)
/// of the onset strength at multiples of the beat, then autocorrelation of the sensed beats (B) and
/// first beats (O), then the share of kicks, snares and hats that another one follows so many beats
/// later (K, S, H), and of kicks and snares that follow each other (T).
/// l², slow, fast, A1, A2, A3, A4, A6, A8, P¼, P⅓, P½, P1, A½, P2, P4, P8, P3, P6, A⅓, A⅔, one,
/// B⅓, B½, B⅔, B1, B3/2, B2, O2, O3, O4, T½, T1, T2, T3, S1, S2, S4, K1, K2, K4, H¼, H½, H1.
using TempoEvidence = std::array<double, 44>;

struct TempoCandidate {
  double bpm = 0;
  double score = 0;       ///< nepers; higher is likelier
  double likelihood = 0;  ///< among all candidates, 0 to 1
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
[[nodiscard]] TempoRanking rankTempos(const OnsetStrength& strength, const BeatSense& sense,
                                      const HitIntervals& hits);

} // namespace tuvvo
