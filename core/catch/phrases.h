// The phrases of a long take: where its phrases are, what each is, and how near it lies to the
// beat.
#pragma once

#include "base/jobs.h"
#include "crate/query.h"
#include "listen/analysis.h"
#include "model/project.h"

#include <functional>

namespace tuvvo {

struct Phrase {
  Frames start, end; ///< of the take, half open
  Analysis heard;    ///< of the phrase alone
  bool operator==(const Phrase&) const = default;
};

struct PhraseSettings {
  Seconds rest{0.6};     ///< so long a silence parts two phrases; 0.1 to 10
  Seconds longest{16};   ///< longer ones are parted where something new begins; 4 to 300
  Seconds shortest{0.4}; ///< shorter ones are no phrases; 0.05 to 10
};

/// Where the phrases of a take lie. First by silence: 10 ms are quiet that lie under the larger of
/// 8 dB over the floor (the tenth part of all levels) and 45 dB under the loudest, but
/// never what lies less than 12 dB under the loudest. What is longer
/// than `longest` is parted by novelty: a checkerboard of ±3 s over the similarity of 24 bands
/// every 100 ms (J. Foote, "Automatic audio segmentation using a measure of audio novelty", ICME
/// 2000), at its highest peak, again and again, until no part is too long or nothing new begins in
/// it; a border is moved to the quietest 10 ms within 300 ms.
///
/// Not for the audio thread. Pure. @returns in rising order; empty for silence, and when the job
/// was cancelled
[[nodiscard]] std::vector<Stretch> findPhrases(const Sound& take, const PhraseSettings& settings,
                                               JobContext& job);

/// Finds the phrases and hears each. @param found  called with each as soon as it is heard
void detectPhrases(const Sound& take, const PhraseSettings& settings, JobContext& job,
                   const std::function<void(Phrase)>& found);

/// How unevenly a phrase is played: standard deviation of its onsets from the sixteenths of its own
/// beats. Nothing for a single sound, without a tempo, and for fewer than four onsets.
[[nodiscard]] std::optional<Milliseconds> unevennessOf(const Analysis& heard);

/// How a phrase stands to a beat: smaller is nearer. The cost of its best fit (see cut/fit.h), 0.05
/// for every ms of unevenness, 3 for clipping, 0.2 for every dB that it is under −30 LUFS; 9
/// instead of the fit where neither tempo nor key is known. The weights are ours (common practice,
/// no source).
[[nodiscard]] double costOf(const Phrase& phrase, const BeatNow& beat);

/// A source made of a stretch of a take.
[[nodiscard]] SoundPtr soundOf(const Sound& take, Frames start, Frames end);

} // namespace tuvvo
