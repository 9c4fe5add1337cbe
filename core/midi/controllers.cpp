#include "midi/controllers.h"

namespace tuvvo {

std::optional<DeckSpot> ControllerSettings::spotOf(int note) const {
  if (const auto learnt = notes.find(note); learnt != notes.end()) return learnt->second;
  switch (layout) {
  case NoteLayout::Percussion:
    return percussionSpot(note);
  case NoteLayout::Deck:
    return deckSpot(note);
  case NoteLayout::Pitch:
    break;
  }
  return std::nullopt;
}

} // namespace tuvvo
