// Chosen hits on another key, and at other pitches of the scale. All pure.
#pragma once

#include "beat/pattern_edits.h"
#include "tones/bass_line.h"

namespace tuvvo {

/// Whether hits stay where they were too.
enum class SendAs { Move, Copy };

struct SentHits {
  Pattern pattern;
  HitClip hits;  ///< as they are on the other key
  int moved = 0; ///< of them an octave or more away, since the key does not reach their pitch
};
/// Hits on another key and its part, at their places. Tones keep their pitches: where both sounds
/// have one note a hit is tuned so that it sounds as before, by octaves nearer where the key's tune
/// does not reach; else it keeps its tune. Who stands there already at that pitch goes.
/// @param key  has a part; else nothing is sent
[[nodiscard]] SentHits sent(const Project& project, const Pattern& pattern, const HitClip& chosen,
                            Id key, SendAs way);

/// Hits so many steps of the scale higher (negative: lower), by the notes that their keys sound;
/// without a key of the beat by semitones. Seven are an octave either way.
[[nodiscard]] HitClip steppedInScale(const Project& project, HitClip chosen, int steps);
/// The nearest tone of the chord at each place; where there is none a hit stays.
[[nodiscard]] HitClip snappedToChords(const Project& project, HitClip chosen,
                                      const std::vector<ChordSpan>& chords);

} // namespace tuvvo
