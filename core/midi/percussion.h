// What notes mean where nobody has taught them.
#pragma once

#include "model/key.h"

#include <optional>
#include <string_view>

namespace tuvvo {

/// A place of the deck.
struct DeckSpot {
  Row row = Row::Body;
  int column = 0;
  bool operator==(const DeckSpot&) const = default;
};

/// How a controller's notes lie on the deck.
enum class NoteLayout {
  Percussion, ///< by the General MIDI percussion map
  Deck,       ///< 32 notes from C2 (36) on: Floor, Body, Air, Cuts, left to right
  Pitch       ///< the chosen key, C4 (60) as it is, the others in semitones
};

/// The deck's place of a percussion note (General MIDI System Level 1, percussion key map: 35 to
/// 81): bass drums and low toms on Floor, snares, claps, toms and congas on Body, cymbals and what
/// is shaken or struck high on Air. Several notes may share a place.
[[nodiscard]] std::optional<DeckSpot> percussionSpot(int note);
/// Its name in that map; empty outside it.
[[nodiscard]] std::string_view percussionName(int note);
/// The place of a note in the layout by deck.
[[nodiscard]] std::optional<DeckSpot> deckSpot(int note);

} // namespace tuvvo
