// Tempo, beats and downbeats.
#pragma once

#include "listen/analysis.h"
#include "listen/beat_sense.h"
#include "listen/harmony.h"
#include "listen/hit_intervals.h"

namespace tuvvo {

/// What was heard of a sound's time.
struct TimeHeard {
  std::optional<TempoHeard> tempo; ///< nothing for one-shots and free sounds
  int meter = 4;
  bool compound = false;
  std::vector<Seconds> beats, downbeats;
  std::optional<LoopHeard> loop;
};

/// Autocorrelation of the onset strength and periodograms of 12 s blocks propose tempos between 50
/// and 215 BPM, a linear ranker chooses the felt one (tempo_ranking.h), the phase tracked from
/// window to window makes it precise and follows it where it wanders (pulse.h), and a learnt
/// picture of a bar finds the first beat (bars.h).
///
/// Not for the audio thread. Pure.
/// @param hits        what is struck, by its names
/// @param firstSound  where the sound begins to be heard
[[nodiscard]] TimeHeard analyseTime(const OnsetStrength& strength, const BeatSense& sense,
                                    const HitIntervals& hits, const Harmony& harmony,
                                    Seconds duration, Seconds firstSound, JobContext& job);

} // namespace tuvvo
