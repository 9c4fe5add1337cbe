// The levels that parts start with, by their role and loudness, with room above.
#pragma once

#include "cut/slice_levels.h"

namespace tuvvo {

/// The highest sample of what starts, at the master, is brought to about this (common practice, no
/// source): later parts and effects find room, and the limiter rests.
inline constexpr Decibels kStartPeak{-6};

/// How much louder or softer than a kick a part starts, by the loudness of its attacks (common
/// practice, no source): snares and claps 1 LU softer, hats and other air 9, slices 3, a bass that
/// is held 3.
[[nodiscard]] double startLoudness(const Project& project, const Part& part);

/// How parts that get their levels stand among each other: by role, or as they are, which is right
/// for the drums of one recording.
enum class Among { ByRole, AsTheyAre };

/// Sets the levels of some parts for what a pattern plays. Beside parts that stay as they are, they
/// take their place by role; alone, their peaks together come to kStartPeak. Parts that the pattern
/// does not play, or that are silent, keep their levels.
/// @param parts  whose levels are set; within −30 and +6 dB
[[nodiscard]] Project withStartLevels(Project project, const std::vector<Id>& parts, Id pattern,
                                      Among among, LoudnessCache& loudness);

/// Parts whose level nobody has set, and that no pattern has played yet.
[[nodiscard]] std::vector<Id> freshParts(const Project& project);

/// How high the sum of all that a pattern plays is likely to reach at the master, without any
/// chain. Hits that begin within 25 ms of each other add up, and what still rings counts by half;
/// midway, in decibels, between the most (peaks add) and what is usual where sounds know nothing of
/// each other (powers add). From sounds' own peaks; nothing is rendered. −infinity for silence.
[[nodiscard]] Decibels likelyPeak(const Project& project, const Pattern& pattern,
                                  LoudnessCache& loudness);

} // namespace tuvvo
