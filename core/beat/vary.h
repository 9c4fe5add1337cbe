// Changes against similarity: always as plain hits, the same from the same seed. Pure.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// What becomes of a pattern's last bar.
enum class LastBar {
  Drop,       ///< everything rests over the last beat (or half of a bar of two)
  Fill,       ///< snares, or what is struck most off the kick, gather over the last two beats
  Roll,       ///< the last hit of the busiest high part rolls to the bar line, swelling
  OtherSlice, ///< slices are dealt anew inside the bar; without slices the drums' hits change keys
  Reverse     ///< the last slice, or the last hit of what rings longest, is played backwards
};

/// A change of the last bar; lanes that come round by themselves are written out first. Where the
/// pattern has nothing that the change could act on it stays as it was.
[[nodiscard]] Pattern withLastBarChanged(const Project& project, Pattern pattern, LastBar way,
                                         std::uint64_t seed);

/// A part rests for a bar.
/// @param bar  from 0
[[nodiscard]] Pattern withPartDropped(Pattern pattern, Id part, int bar);

/// Fewer hits, for an intro: what lies between the beats goes before what is on them, soft hits
/// before hard ones; tones and slices longer than a beat stay. The first hit of every part stays.
/// @param keep  share of hits that stay; 0 to 1
[[nodiscard]] Pattern thinned(const Project& project, Pattern pattern, double keep,
                              std::uint64_t seed);

} // namespace tuvvo
