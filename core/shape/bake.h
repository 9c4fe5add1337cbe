// Sound made from sound by a recipe: which place of the source is heard when, and at what pitch.
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "cut/fit.h"
#include "shape/time_line.h"

namespace tuvvo {

/// By what a source is said or heard to be: a break or a struck one-shot is hits.
[[nodiscard]] Material materialOf(const Source& source);
/// Where its blades go, in seconds, rising.
[[nodiscard]] std::vector<double> hitsOf(const Source& source);

/// Everything that a baked sound depends on besides the samples. The same recipe over the same
/// samples gives the same samples again.
struct BakeRecipe {
  FitMethod method = FitMethod::Repitch;
  TimeLine line;            ///< repitch: pitch goes with its slopes
  double pitch = 1;         ///< ratio, besides the line's own; 1/16 to 16
  std::vector<double> hits; ///< where blades go, in seconds of the source, rising: slices of
                            ///< re-spacing, attacks that stretching keeps
  Material material = Material::Tones;
  bool formants = false; ///< stretching leaves the colour of a voice where it is
  bool preview = false;  ///< quick rather than fine
  Hertz rate{48000};     ///< of the result

  bool operator==(const BakeRecipe&) const = default;
  /// Names the recipe over a sound: 32 hexadecimal digits. Equal only for equal recipes.
  [[nodiscard]] std::string nameOver(const std::string& soundHash) const;
};

/// Frames of what a recipe makes: round(length · rate), one at least.
[[nodiscard]] Frames framesOf(const BakeRecipe& recipe);

/// Bakes.
///   Repitch: windowed-sinc interpolation, the speed going from knot to knot.
///   Stretch: Rubber Band, offline, its key frames on the line's knots: the R3 engine for tones, R2
///   for hits and for previews. Hits keep their attacks: from 10 ms before each to 20 ms after it
///   the source's own samples are heard at their own speed, exactly where the line puts the hit.
///   Re-space: slices from hit to hit at their own speed. A gap is filled by going on in the
///   slice's own tail (pieces of it joined where the waves agree, at the level it ended with); an
///   overlap is cut. Slices that still touch stay joined.
/// Not for the audio thread.
/// @returns exactly framesOf() frames, two channels; an Error when the job was cancelled
Result<SoundPtr> bake(const Sound& sound, const BakeRecipe& recipe, JobContext& job);

/// Stretches longer or shorter than this ratio are not made: 1/8 to 8.
inline constexpr double kMostStretch = 8;

} // namespace tuvvo
