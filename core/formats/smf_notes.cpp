#include "formats/smf_notes.h"

#include "formats/smf_file.h"

#include <cmath>

namespace tuvvo {

Result<std::vector<TimedMidi>> readSmf(const std::filesystem::path& path) {
  const auto smf = openSmf(path);
  if (!smf) return smf.error();
  std::vector<TimedMidi> out;
  while (smf_event_t* event = smf_get_next_event(smf->get())) {
    if (out.size() >= kMostSmfEvents) break;
    if (!std::isfinite(event->time_seconds) || event->time_seconds < 0) continue;
    const auto* data = static_cast<const std::uint8_t*>(event->midi_buffer);
    if (event->midi_buffer_length < 1 || event->midi_buffer_length > 3) continue;
    if (const auto message = messageOf({data, std::size_t(event->midi_buffer_length)}))
      out.push_back({event->time_seconds, *message});
  }
  if (out.empty()) return Error{"There are no notes in this MIDI file", path.string(), ""};
  return out;
}

} // namespace tuvvo
