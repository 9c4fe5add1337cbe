// The notes of a MIDI file, with their times.
#pragma once

#include "base/result.h"
#include "midi/message.h"

#include <filesystem>
#include <vector>

namespace tuvvo {

/// Reads a Standard MIDI File of any type through libsmf, its tempo map followed: everything that
/// MidiMessage knows, in rising time. At most 8 MB and a million events.
/// @returns an Error for what cannot be read
Result<std::vector<TimedMidi>> readSmf(const std::filesystem::path& path);

} // namespace tuvvo
