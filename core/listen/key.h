// Tuning and key.
#pragma once

#include "audio/sound.h"
#include "base/jobs.h"
#include "listen/listening.h"

namespace tuvvo {

/// Tuning by the circular mean of spectral peaks' distances from equal temperament; tones kept by
/// median filtering (Fitzgerald 2010); notes by non-negative least squares on harmonic templates
/// (after Mauch & Dixon 2010); key by correlation with the profiles of Krumhansl & Kessler (1982)
/// and of Albrecht & Shanahan (2013).
///
/// Not for the audio thread. Pure.
/// @returns nothing for sound without pitch
[[nodiscard]] std::optional<KeyHeard> hearKey(const Sound& sound, JobContext& job);

/// The circular mean of peak deviations, −50 to 50 cents, and how well they agree (0 to 1).
struct TuningHeard {
  Cents off;
  double agreement;
};
[[nodiscard]] TuningHeard hearTuning(const Sound& sound);

} // namespace tuvvo
