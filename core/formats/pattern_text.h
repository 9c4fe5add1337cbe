// Patterns as text that people can read, send and change by hand. Pure.
//
//   Tuvvo pattern
//   name "Crossing"
//   bars 4 of 4/4
//   chords 1.1 Bm, 3.1 Gmaj7
//   part "hat" swing16 58 lean 3ms
//   air 1 "hat": 1.1 0.9, 1.1+1/2 0.6 late 4ms, 1.4+3/4 0.5 roll 3 each 1/12
//
// A place is the bar, the note in it that the meter counts, and what is left in quarters. Numbers
// are exact: what is written is read as it was.
#pragma once

#include "base/result.h"
#include "model/project.h"

#include <string_view>

namespace tuvvo {

[[nodiscard]] std::string patternText(const Project& project, const Pattern& pattern);

struct PatternRead {
  Project project; ///< with the feels that the text names and that ship
  Pattern pattern; ///< of that project; without an id
  std::vector<std::string> warnings;
};
inline constexpr std::size_t kMostPatternText = std::size_t(8) << 20; ///< bytes

/// Keys are found by place and name, by name alone, or by place alone, in this order; hits of a key
/// that is not there are left out, with a warning.
/// @returns an Error that names the line, for text that is no pattern, is too long, or gives no hit
[[nodiscard]] Result<PatternRead> patternFromText(const Project& project, std::string_view text);

} // namespace tuvvo
