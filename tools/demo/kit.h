// The drums that ship, made from nothing: struck modes, shaped noise, a small room, a little drive.
#pragma once

#include "dsp.h"

#include <string>

namespace tuvvo::demo {

struct Drum {
  std::string file; ///< "01 kick": the number keeps the order of the deck
  Buffer sound;
  bool mono = false;
};

/// Always the same sounds.
std::vector<Drum> makeKit();

} // namespace tuvvo::demo
