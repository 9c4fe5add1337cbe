#include "formats/smf_notes.h"

#include <smf.h>

#include <cmath>
#include <cstring>
#include <fstream>

namespace tuvvo {

namespace {

constexpr std::uintmax_t kMostBytes = 8u << 20;
constexpr std::size_t kMostEvents = 1'000'000;

/// Whether the chunks are as long as they say they are: what libsmf takes for granted.
bool wellFramed(const std::vector<char>& bytes) {
  const auto word = [&](std::size_t at) {
    std::uint32_t v = 0;
    for (std::size_t i = 0; i < 4; ++i) v = v << 8 | std::uint8_t(bytes[at + i]);
    return v;
  };
  if (bytes.size() < 22 || std::memcmp(bytes.data(), "MThd", 4) != 0 || word(4) != 6) return false;
  if (bytes[12] == 0 && bytes[13] == 0) return false; // a beat of no ticks
  for (std::size_t at = 14; at < bytes.size();) {
    if (at + 8 > bytes.size() || word(at + 4) > bytes.size() - at - 8) return false;
    at += 8 + word(at + 4);
  }
  return true;
}

} // namespace

Result<std::vector<TimedMidi>> readSmf(const std::filesystem::path& path) {
  const Error bad{"This MIDI file cannot be read", path.string(),
                  "Export it again, or choose another."};
  std::error_code code;
  const auto size = std::filesystem::file_size(path, code);
  if (code || size > kMostBytes) return bad;
  std::ifstream in(path, std::ios::binary);
  std::vector<char> bytes(static_cast<std::size_t>(size));
  if (!in.read(bytes.data(), std::streamsize(size)) || !wellFramed(bytes)) return bad;
  smf_t* smf = smf_load_from_memory(bytes.data(), int(bytes.size()));
  if (!smf) return bad;
  std::vector<TimedMidi> out;
  smf_rewind(smf);
  while (smf_event_t* event = smf_get_next_event(smf)) {
    if (out.size() >= kMostEvents) break;
    if (!std::isfinite(event->time_seconds) || event->time_seconds < 0) continue;
    const auto* data = static_cast<const std::uint8_t*>(event->midi_buffer);
    if (event->midi_buffer_length < 1 || event->midi_buffer_length > 3) continue;
    if (const auto message = messageOf({data, std::size_t(event->midi_buffer_length)}))
      out.push_back({event->time_seconds, *message});
  }
  smf_delete(smf);
  if (out.empty()) return Error{"There are no notes in this MIDI file", path.string(), ""};
  return out;
}

} // namespace tuvvo
