// A source brought to a beat by one row of the fit planner, ready to run beside it.
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "shape/time_line.h"

namespace tuvvo {

struct FittedSound {
  SoundPtr sound;     ///< at the beat's rate; begins on a downbeat where the source has any
  bool loops = false; ///< a whole number of beats long, to be played round and round
  double beats = 0;   ///< of the beat; 0 when it does not loop
};

/// A way that meets the beat's tempo: the cheapest of planFit()'s rows that do, or the cheapest of
/// all where the source has no tempo. Nothing where neither tempo nor key is known.
[[nodiscard]] std::optional<FitRow> wayToHear(const FitQuestion& question);

/// Renders a source as the row says. Played beats are led onto the beat's own, so that a source
/// that drifts stays with it: by the speed itself (repitch), inside the stretching, or slice by
/// slice. Ends are faded over 3 ms.
/// Baked (bake.h) as a preview, so that what is tried out sounds at once.
/// Half a minute of the source at most. Not for the audio thread.
/// @param source  with its sound and what was heard
/// @returns an Error for a source without a sound, and when the job was cancelled
Result<FittedSound> fitToBeat(const Source& source, const FitRow& row, const BeatFrame& beat,
                              JobContext& job);

} // namespace tuvvo
