// Patterns and songs as MIDI files, and MIDI files as patterns (Standard MIDI Files 1.0).
#pragma once

#include "base/outputs.h"
#include "play/score.h"

#include <filesystem>
#include <span>

namespace tuvvo {

// ---- in -----------------------------------------------------------------------------------------

struct SmfReading {
  Id tones = 0;    ///< the key that plays what is not percussion; 0: it is left out
  int perBeat = 4; ///< the grid hits are named on; what is off it is micro-timing
};

struct SmfBeat {
  Pattern pattern; ///< without an id; plain feels
  Bpm tempo{120};
  std::vector<TempoChange> tempoChanges; ///< after the start; a pattern has one tempo, a song may
                                         ///< have them all
  std::vector<std::string> warnings;     ///< sentences: what had to be left out or bent
};

/// Reads a file of any type, by beats: its first tempo and meter are the pattern's, and every hit
/// sounds on its own tick. Channel 10 goes to the deck by the General MIDI percussion map, the
/// other channels to one key, in semitones from its own note (from C4 where it has none).
/// @param name  of the pattern
/// @returns an Error for a file that cannot be read or has nothing to play
[[nodiscard]] Result<SmfBeat> readSmfBeat(const std::filesystem::path& path, const Project& project,
                                          const std::string& name, const SmfReading& reading);
/// The same from the file's bytes. @param where  names the file in messages
[[nodiscard]] Result<SmfBeat> smfBeatFrom(std::span<const std::uint8_t> bytes,
                                          const std::string& where, const Project& project,
                                          const std::string& name, const SmfReading& reading);

// ---- out ----------------------------------------------------------------------------------------

inline constexpr int kSmfTicks = 960; ///< to a quarter

/// Writes what a score plays in one pass: one track a part, feel, rolls and conditions as they are
/// heard, velocities as they are struck; a first track with tempo, meters and the song's sections
/// as markers. Parts whose keys all have a percussion note go to channel 10, those of one pitched
/// key play its notes, and those of slices count up from C2 in the order of their keys.
/// @param song  with markers for its sections; else it is one pattern
[[nodiscard]] Result<void> writeSmf(const Score& score, const Project& project, bool song,
                                    const std::filesystem::path& path, Outputs& outputs);

} // namespace tuvvo
