// The events of a MIDI file, read by the published standard (Standard MIDI Files 1.0, MIDI
// Manufacturers Association 1996). Nothing is believed before it was measured. Inner part of
// formats/.
#pragma once

#include "base/result.h"

#include <cstdint>
#include <filesystem>
#include <span>
#include <vector>

namespace tuvvo {

struct SmfEvent {
  double quarters = 0; ///< from the beginning; for files timed in frames of film: at 120 BPM
  std::span<const std::uint8_t> bytes; ///< status and data in full; meta events as FF, kind, data;
                                       ///< running status is written out for channel messages
};

struct SmfEvents {
  std::vector<std::uint8_t> file;  ///< what bytes point into
  std::vector<std::uint8_t> spelt; ///< messages that had no status of their own
  std::vector<SmfEvent> events;    ///< of all tracks, in rising time; those of one moment by track
  bool film = false;               ///< timed in frames of film: tempo is not heeded
  bool cut = false;                ///< more than kMostSmfEvents: the rest is left out
};

inline constexpr std::size_t kMostSmfEvents = 1'000'000;
inline constexpr std::size_t kMostSmfBytes = 8u << 20;

[[nodiscard]] Result<SmfEvents> readSmfFile(const std::filesystem::path& path);
/// @param where  names the file in messages
/// @returns an Error for what is no MIDI file, and for one whose lengths do not agree
[[nodiscard]] Result<SmfEvents> readSmfEvents(std::vector<std::uint8_t> file,
                                              const std::string& where);

} // namespace tuvvo
