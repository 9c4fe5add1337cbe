// Treatments of a sound that has been brought to the beat (model/treatment.h says which there are).
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "model/project.h"
#include "shape/varispeed.h"

namespace tuvvo {

/// What figures in beats and bars are measured by.
struct TreatFrame {
  Bpm tempo{90};
  double beatsPerBar = 4; ///< quarters
  Hertz rate{48000};
  Material material = Material::Tones; ///< for what is stretched

  [[nodiscard]] double framesOf(double beats) const {
    return beats * 60 / tempo.value * rate.value;
  }
};

/// Longer than this is not made: ten minutes at 48 kHz.
inline constexpr std::size_t kMostTreatedFrames = std::size_t(10) * 60 * 48000;

/// Does to a sound what a treatment says. The same sound and figures give the same samples again.
///
///   Reverse, alternate, stutter and chop move pieces of it; joins that are not as in the sound are
///   faded over 1 to 2 ms. Divisions count from its first frame.
///   Slow down and start up: speed goes as (what is left of the way) to the power of the curve;
///   what comes after a start is in time as if it had never stopped. The length stays.
///   Half and double time: over a number of bars of the result from its start, after which it goes
///   on in time; over all of it (no bars) it becomes twice or half as long.
///   Swell: the sound's first beats, or its reverberation (exponentially decaying noise, Moorer
///   1979, as a tail to convolve with), turned round and put before it; its first frame stands
///   exactly the figure's beats after the start.
///   Isolate, sides, band: isolate.h and bands.h.
///
/// Not for the audio thread.
/// @param sound  two channels of equal length at the frame's rate; becomes the result
/// @returns an Error when the job was cancelled, or when the result would be too long
Result<void> applyTreatment(Channels& sound, const Treatment& treatment, const TreatFrame& frame,
                            JobContext& job);

/// Frames that a sound has after a treatment, without doing it.
[[nodiscard]] std::size_t framesAfter(std::size_t frames, const Treatment& treatment,
                                      const TreatFrame& frame);

/// Which piece of a chop stands where, from 0: as said by hand, or shuffled by the seed (Fisher and
/// Yates), which never leaves all where they were.
/// @param frames  of the sound that is chopped
[[nodiscard]] std::vector<int> chopOrder(const treat::Chop& chop, std::size_t frames,
                                         const TreatFrame& frame);

/// How long after its start a treated sound arrives, in beats: what swells before it add up to.
/// Treatments that are off do not count.
[[nodiscard]] double leadBeats(const std::vector<Treatment>& treatments);

} // namespace tuvvo
