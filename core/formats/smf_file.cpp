#include "formats/smf_file.h"

#include <glib.h>

#include <cstring>
#include <fstream>
#include <vector>

namespace tuvvo {

namespace {

constexpr std::uintmax_t kMostBytes = 8u << 20;

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

/// libsmf takes the events of a track out one by one from the front, in a time that grows by the
/// square of their number; here they are let go before it does.
void SmfDelete::operator()(smf_t* smf) const {
  for (int i = 1; i <= smf->number_of_tracks; ++i) {
    smf_track_t* track = smf_get_track_by_number(smf, i);
    GPtrArray* events = track->events_array;
    for (guint k = 0; k < events->len; ++k) {
      auto* event = static_cast<smf_event_t*>(g_ptr_array_index(events, k));
      event->track = nullptr;
      smf_event_delete(event);
    }
    g_ptr_array_set_size(events, 0);
    track->number_of_events = 0;
  }
  smf_delete(smf);
}

Result<SmfPtr> openSmf(const std::filesystem::path& path) {
  const Error bad{"This MIDI file cannot be read", path.string(),
                  "Export it again, or choose another."};
  std::error_code code;
  const auto size = std::filesystem::file_size(path, code);
  if (code) return bad;
  if (size > kMostBytes)
    return Error{"This MIDI file is larger than 8 MB", path.string(),
                 "Export the part that you need."};
  std::ifstream in(path, std::ios::binary);
  std::vector<char> bytes(static_cast<std::size_t>(size));
  if (!in.read(bytes.data(), std::streamsize(size)) || !wellFramed(bytes)) return bad;
  SmfPtr smf(smf_load_from_memory(bytes.data(), int(bytes.size())));
  if (!smf) return bad;
  smf_rewind(smf.get());
  return smf;
}

} // namespace tuvvo
