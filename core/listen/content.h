// What is in a stretch of a sound.
#pragma once

#include "listen/analysis.h"
#include "listen/harmony.h"

namespace tuvvo {

/// @param heard  with onsets and beats; where there are no beats, changes are counted twice a
/// second
/// @returns all zeros for a stretch of silence
[[nodiscard]] Content contentOf(const Analysis& heard, const Harmony& harmony, Seconds from,
                                Seconds to);

/// What people say of it, where it is plainly so.
struct ContentWords {
  bool lows = false;  ///< there is a bass or a low drum
  bool drums = false; ///< something strikes at least about once a bar
  bool busy = false, calm = false;
  bool tones = false; ///< something holds a pitch
  bool mids = false;  ///< much lies where voices are: another voice has little room
};
/// The borders are ours; common practice, no source.
[[nodiscard]] ContentWords wordsOf(const Content& content);

} // namespace tuvvo
