// Two sources over each other, brought to the beat together.
#pragma once

#include "cut/overlay.h"
#include "shape/fit_to_beat.h"

namespace tuvvo {

/// Both phrases of a way at the beat's tempo, as loud as each other (EBU R 128 integrated), summed;
/// the upper one's pitch follows the lower one's, moved by the way's shift and in tune with it.
/// The sum is held under −1 dBFS. Not for the audio thread.
/// @param under, over  with their sounds; @param way  of best() of `question`
/// @returns an Error where a sound is missing, and when the job was cancelled
Result<FittedSound> layOver(const Source& under, const Source& over,
                            const OverlayQuestion& question, const Overlay& way,
                            const BeatFrame& beat, JobContext& job);

} // namespace tuvvo
