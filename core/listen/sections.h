// Sections with labels by similarity.
#pragma once

#include "listen/analysis.h"
#include "listen/harmony.h"
#include "listen/onset_strength.h"

namespace tuvvo {

/// Blocks of four bars (of two, or of one where there are fewer than eight) are compared by what
/// sounds in them and by how strongly each frequency group moves; a block like an earlier one takes
/// its letter, neighbours with the same letter are one section (after Foote 2000 for the similarity
/// of a piece with itself).
/// @param downbeats  first beats of bars
/// @returns from the first bar to the end, on bar lines; empty for fewer than two bars
[[nodiscard]] std::vector<SectionHeard> analyseSections(const Harmony& harmony,
                                                        const OnsetStrength& strength,
                                                        std::span<const Seconds> downbeats,
                                                        Seconds duration);

} // namespace tuvvo
