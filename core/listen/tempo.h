// Tempo, beats and downbeats.
#pragma once

#include "audio/sound.h"
#include "base/jobs.h"
#include "listen/listening.h"

namespace tuvvo {

/// What was heard of a sound's time.
struct TimeHeard {
  std::optional<TempoHeard> tempo; ///< nothing for one-shots and free sounds
  std::vector<Seconds> beats, downbeats;
  std::optional<LoopHeard> loop;
};

/// Onset strength in five frequency groups; autocorrelation of the whole and periodograms of 12 s
/// blocks propose tempos between 50 and 215 BPM, a linear ranker chooses the felt one, and the
/// whole-file periodogram makes it precise (Grosche & Müller 2011 for the Fourier tempogram). Beats
/// that wander are followed by dynamic programming (Ellis 2007).
///
/// Not for the audio thread. Pure.
/// @param onsets  of the same sound, from OnsetFinder; they give the beats their last milliseconds
[[nodiscard]] TimeHeard hearTime(const Sound& sound, const std::vector<Onset>& onsets,
                                 JobContext& job);

} // namespace tuvvo
