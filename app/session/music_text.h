// Keys, chords and notes as they are shown: with the signs for flat and sharp. Files have letters.
#pragma once

#include "listen/spelling.h"
#include "model/project.h"

#include <QString>

namespace tuvvo {

/// "E♭m", "F♯maj7" of what the core calls Ebm and F#maj7.
[[nodiscard]] inline QString musicText(std::string_view ascii) {
  return QString::fromStdString(withSigns(ascii));
}

/// What a key of the deck is called; what a person typed stays as it was typed.
[[nodiscard]] inline QString nameText(const Project& project, const Key& key) {
  const std::string name = nameOf(project, key);
  return key.name.empty() ? musicText(name) : QString::fromStdString(name);
}

} // namespace tuvvo
