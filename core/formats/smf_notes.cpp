#include "formats/smf_notes.h"

#include "base/guard.h"
#include "formats/smf_events.h"

#include <cmath>

namespace tuvvo {

namespace {

constexpr double kUsualTempo = 500'000; ///< microseconds a quarter where none is said (section 4)

} // namespace

Result<std::vector<TimedMidi>> readSmf(const std::filesystem::path& path) {
  return guarded("Reading the MIDI file", path.string(), [&]() -> Result<std::vector<TimedMidi>> {
    const auto file = readSmfFile(path);
    if (!file) return file.error();
    std::vector<TimedMidi> out;
    double micros = kUsualTempo, seconds = 0, last = 0;
    for (const auto& event : file->events) {
      seconds += (event.quarters - last) * micros / 1e6;
      last = event.quarters;
      const auto b = event.bytes;
      if (b.size() == 5 && b[0] == 0xff && b[1] == 0x51 && !file->film) {
        micros = std::max(1.0, double(b[2] << 16 | b[3] << 8 | b[4]));
        continue;
      }
      if (b.size() > 3 || !std::isfinite(seconds)) continue;
      if (const auto message = messageOf(b)) out.push_back({seconds, *message});
    }
    if (out.empty())
      return Error{"There are no notes in this MIDI file", path.string(), "Choose another."};
    return out;
  });
}

} // namespace tuvvo
