// What a person has taught their controllers. Values.
#pragma once

#include "midi/percussion.h"
#include "midi/velocity_curve.h"
#include "model/extra.h"

#include <map>
#include <string>

namespace tuvvo {

struct ControllerSettings {
  bool wanted = true; ///< opened as soon as it is there
  NoteLayout layout = NoteLayout::Percussion;
  std::map<int, DeckSpot> notes;     ///< learnt; they come before the layout
  std::map<int, std::string> slides; ///< controller number: which slide it moves
  VelocityCurve curve;
  bool pressRolls = true;   ///< aftertouch is the level of a roll
  bool followClock = false; ///< its clock is the beat's tempo; its start and stop are ours
  Extra extra{};
  bool operator==(const ControllerSettings&) const = default;

  /// The deck's place of a note; nothing where it has none, or where the layout is by pitch.
  [[nodiscard]] std::optional<DeckSpot> spotOf(int note) const;
};

/// By the name of the port.
using Controllers = std::map<std::string, ControllerSettings>;

} // namespace tuvvo
