// A starter beat from one source, end to end.
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "model/project.h"

namespace tuvvo {

struct FlipOptions {
  std::optional<Bpm> tempo; ///< of the beat; else the source's own, to the nearest whole BPM
  std::uint64_t seed = 1;   ///< the same seed gives the same beat
};

/// Lays a plain beat with the kit's kick, snare and hat where the deck has them (newProject): kicks
/// on one and before four, snares on two and four, hats in eighths; the last of several bars leads
/// back to the first (common practice, no source). What is there already stays.
[[nodiscard]] Pattern withStarterDrums(Pattern pattern, const Project& project);

/// Cuts the source (by beats where it is an exact loop, by hits where it was played), puts the cuts
/// on keys, writes two 2-bar patterns from them in an order of their own with the kit's drums under
/// them, and a song of 12 bars. Slices are untouched and only re-spaced (the third method); the
/// start of every slice stands on the grid. Parts have their start levels (start_levels.h).
/// @param start   a project with the kit on its deck (newProject)
/// @param source  with its sound and what was heard in it
/// @returns an Error when the source cannot be cut into at least two slices
Result<Project> flip(Project start, Source source, const FlipOptions& options);

} // namespace tuvvo
