// How alike the bars of a pattern are. Pure.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// One bar against those before it.
struct BarSimilarity {
  int like = 0;      ///< the earlier bar it is most like; itself where it opens a letter of its own
  int letter = 0;    ///< bars of one letter are nearly the same; 0 for A
  bool exact = true; ///< the same as the first bar of its letter, hit for hit
  double share = 0;  ///< how like it is to that earlier bar; 0 nothing in common, 1 the same; 0 for
                     ///< the first bar
};

/// How alike two bars sound: hits of one key at one place (nearer than a 32nd) agree by how near
/// they are in velocity, by tune and by direction; twice what agrees over all hits of both. Two
/// empty bars are the same.
[[nodiscard]] double barSimilarity(const Project& project, const Pattern& pattern, int a, int b);

/// All bars of a pattern. A bar gets the letter of an earlier one that it is like by kSameLetter
/// and more.
[[nodiscard]] std::vector<BarSimilarity> barsAlike(const Project& project, const Pattern& pattern);
inline constexpr double kSameLetter = 0.75;

/// How much of a pattern is heard before: the mean similarity of its bars but the first to the most
/// alike before them; 0 for one bar.
[[nodiscard]] double meanSimilarity(const std::vector<BarSimilarity>& bars);

} // namespace tuvvo
