// Notes through a general-purpose soundfont synthesiser.
#pragma once

#include "dsp.h"

#include <string>

namespace tuvvo::demo {

struct Note {
  double atS, lengthS;
  int channel;     ///< 9 is drums
  int pitch;       ///< MIDI note
  double velocity; ///< 0 to 1
};

struct Instrument {
  int channel, bank, program;
  double volume, pan; ///< 0 to 1, −1 to 1
};

/// Renders without effects; ends the tool with a message when the soundfont is not there.
Buffer playNotes(const std::string& soundfont, const std::vector<Instrument>& instruments,
                 std::vector<Note> notes, double seconds);

} // namespace tuvvo::demo
