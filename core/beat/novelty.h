// How far placed slices are from how their source had them.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// Each from 0, as in the source, to 1; docs/novelty.md says how they are reckoned.
struct Novelty {
  int slices = 0;    ///< hits of this source's slices in the pattern
  double order = 0;  ///< neighbours that are no neighbours in the source
  double rhythm = 0; ///< distances between hits against those in the source
  double pitch = 0;  ///< of single slices against each other
  double length = 0; ///< how much of each slice is heard
  double total = 0;
};

/// Of the slices of one source in one pattern; all zero for fewer than two hits.
[[nodiscard]] Novelty noveltyOf(const Project& project, const Pattern& pattern, Id source);

/// The same rhythm, lengths and velocities with the slices dealt anew by a seed; no slice stays
/// before the one that follows it in the source where that can be helped.
[[nodiscard]] Project withOrderChanged(Project project, Id pattern, Id source, std::uint64_t seed);

} // namespace tuvvo
