// What a sound is to this trade: one-shot, break, loop, passage, field recording, voice.
#pragma once

#include "listen/analysis.h"
#include "listen/harmony.h"

namespace tuvvo {

/// What speaks for a kind.
struct KindEvidence {
  double duration = 0;  ///< s
  int hits = 0;         ///< plain ones: within 12 dB of the loudest and a tenth of a second apart
  double drums = 0;     ///< share of onsets that are kick, snare or hat
  double changes = 0;   ///< of chord, a second
  double quiet = 0;     ///< share of frames under half the mean level around them
  double syllables = 0; ///< share of the level's movement between 2.5 and 8 Hz
  double agreement = 0, tonal = 0; ///< see Harmony
  double pulse = 0;                ///< confidence of the tempo; 0 for none
  double key = 0;                  ///< confidence of the key; 0 for none
  int loopBars = 0;
};
/// @param heard  with tempo, key, hits and loop filled in
/// @param mono   at 22 050 Hz
[[nodiscard]] KindEvidence kindEvidence(const Analysis& heard, const Harmony& harmony,
                                        std::span<const float> mono);

/// Decides by what else was heard: pulse, hits and their classes, tones, length, and the way speech
/// moves (share of quiet frames and energy at four changes a second, after Scheirer & Slaney 1997).
/// The thresholds are ours; docs/decisions says how they were found.
[[nodiscard]] KindHeard analyseKind(const KindEvidence& evidence);

} // namespace tuvvo
