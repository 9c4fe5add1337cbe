#include "base/convert.h"
#include "formats/smf_beat.h"
#include "formats/smf_tempo.h"

#include "base/files.h"
#include "base/guard.h"
#include "beat/hand.h"
#include "midi/percussion.h"
#include "song/timeline.h"

#include <algorithm>
#include <bit>
#include <cmath>
#include <map>
#include <memory>
#include <smf.h>
#include <sys/mman.h>
#include <unistd.h>

namespace tuvvo {

namespace {

using MidiBytes = std::vector<std::uint8_t>;

struct SmfDelete {
  /// libsmf takes the events of a track out one by one from the front, in a time that grows by the
  /// square of their number; here they are let go before it does.
  void operator()(smf_t* smf) const {
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
};
using SmfPtr = std::unique_ptr<smf_t, SmfDelete>;

/// The library writes to a name alone and does not look whether it could; here it is given one in
/// memory, and what it wrote goes to the disc by our own way.
std::optional<std::string> bytesOf(smf_t& smf) {
  const int fd = ::memfd_create("tuvvo-smf", MFD_CLOEXEC);
  if (fd < 0) return std::nullopt;
  std::optional<std::string> out;
  if (smf_save(&smf, ("/proc/self/fd/" + std::to_string(fd)).c_str()) == 0) {
    const auto size = ::lseek(fd, 0, SEEK_END);
    std::string bytes(std::size_t(std::max<off_t>(0, size)), '\0');
    if (::pread(fd, bytes.data(), bytes.size(), 0) == long(bytes.size())) out = std::move(bytes);
  }
  ::close(fd);
  return out;
}

/// The percussion map's first note of a key's place.
std::optional<int> percussionNoteOf(const Key& key) {
  for (int note = 35; note <= 81; ++note)
    if (const auto spot = percussionSpot(note);
        spot && key.page == 0 && spot->row == key.row && spot->column == key.column)
      return note;
  return std::nullopt;
}

/// How a part's keys become notes.
struct Naming {
  int channel = 0;
  std::map<Id, int> notes; ///< by key
};

Naming namingOf(const Project& project, Id part, bool tuned, int& nextChannel) {
  std::vector<const Key*> keys;
  for (const auto& key : project.keys)
    if (key.part == part) keys.push_back(&key);
  Naming naming;
  const bool drums = !tuned && std::all_of(keys.begin(), keys.end(), [](const Key* key) {
    return percussionNoteOf(*key).has_value();
  });
  naming.channel = drums ? 9 : nextChannel;
  if (!drums) nextChannel = nextChannel == 8 ? 10 : (nextChannel + 1) % 16;
  for (std::size_t i = 0; i < keys.size(); ++i) {
    const Hertz root = keys.size() == 1 ? rootOf(project, *keys[0]) : Hertz(0);
    naming.notes[keys[i]->id] = drums              ? *percussionNoteOf(*keys[i])
                                : root.value > 0   ? toNearest<int>(midiNoteOf(root))
                                : keys.size() == 1 ? 60
                                                   : std::min(127, 36 + int(i));
  }
  return naming;
}

struct Written {
  std::int64_t at = 0;
  bool on = false;
  int note = 0, velocity = 0;
};

/// Adds an event; libsmf keeps what it is given.
bool put(smf_track_t* track, std::int64_t at, const MidiBytes& bytes) {
  smf_event_t* event = smf_event_new_from_pointer(const_cast<std::uint8_t*>(bytes.data()),
                                                  int(bytes.size())); // it only reads them
  if (!event) return false;
  smf_track_add_event_pulses(track, event, int(std::clamp<std::int64_t>(at, 0, 0x0fffffff)));
  return true;
}

MidiBytes meta(std::uint8_t kind, std::string_view text) {
  text = text.substr(0, 120); // a length of one byte
  MidiBytes out(3 + text.size());
  out[0] = 0xff;
  out[1] = kind;
  out[2] = std::uint8_t(text.size());
  std::copy(text.begin(), text.end(), out.begin() + 3);
  return out;
}

smf_track_t* newTrack(smf_t& smf) {
  smf_track_t* track = smf_track_new();
  smf_add_track(&smf, track);
  return track;
}

void writeFrame(smf_t& smf, const Score& score, const Project& project, bool song) {
  smf_track_t* track = newTrack(smf);
  put(track, 0, meta(0x03, project.name.empty() ? "Tuvvo" : project.name));
  const Beats end = score.tempo.beatsAt(Frames(score.length.value), kEngineRate);
  for (const auto& [at, micros] : smfTempiOf(score.tempo, end))
    put(track, at.value * kSmfTicks / kTicksPerBeat,
        {0xff, 0x51, 3, std::uint8_t(micros >> 16), std::uint8_t(micros >> 8),
         std::uint8_t(micros)});
  for (const auto& span : score.meters)
    put(track, span.start.value * kSmfTicks / kTicksPerBeat,
        {0xff, 0x58, 4, std::uint8_t(span.meter.beats),
         std::uint8_t(std::countr_zero(unsigned(span.meter.unit))),
         std::uint8_t(24 * pulseOf(span.meter).value / kTicksPerBeat), 8});
  if (!song) return;
  for (const auto& placed : timelineOf(project).sections)
    if (const Section* section = findSection(project, placed.section))
      put(track, placed.start.value * kSmfTicks / kTicksPerBeat, meta(0x06, section->name));
}

/// What a part plays, each note ended before it is struck again.
std::vector<Written> notesOf(const Score& score, const std::vector<const ScoreEvent*>& events,
                             const Naming& naming) {
  const auto ticksAt = [&](EngineFrames at) {
    return score.ticksAt(at) * kSmfTicks / double(kTicksPerBeat);
  };
  std::vector<Written> out;
  std::map<int, std::int64_t> next; // of each note, going backwards
  for (auto each = events.rbegin(); each != events.rend(); ++each) {
    const ScoreEvent& event = **each;
    const auto found = naming.notes.find(score.patches[std::size_t(event.patch)].key);
    if (found == naming.notes.end()) continue;
    const int note =
        std::clamp(found->second + toNearest<int>(semitonesOf(event.tune).value), 0, 127);
    const std::int64_t at = toNearest<std::int64_t>(ticksAt(event.frame));
    const std::int64_t length =
        event.hold.value > 0
            ? toNearest<std::int64_t>(ticksAt(event.frame + event.hold) - ticksAt(event.frame))
            : kSmfTicks / 8;
    std::int64_t end = at + std::max<std::int64_t>(1, length);
    if (const auto again = next.find(note); again != next.end()) end = std::min(end, again->second);
    next[note] = at;
    if (end <= at) continue; // two of them at once
    const int velocity = std::clamp(toNearest<int>(127 * std::sqrt(double(event.gain))), 1, 127);
    out.push_back({at, true, note, velocity});
    out.push_back({end, false, note, 64});
  }
  std::stable_sort(out.begin(), out.end(), [](const Written& a, const Written& b) {
    return a.at != b.at ? a.at < b.at : !a.on && b.on; // what ends makes room
  });
  return out;
}

} // namespace

namespace {

Result<void> writeAll(const Score& score, const Project& project, bool song,
                      const std::filesystem::path& path, Outputs& outputs) {
  const auto replace = outputs.claim(path);
  if (!replace) return replace.error();
  const Error bad{"The MIDI file cannot be written", path.string(), "Choose another place."};
  SmfPtr smf(smf_new());
  if (!smf || smf_set_format(smf.get(), 1) != 0 || smf_set_ppqn(smf.get(), kSmfTicks) != 0)
    return bad;
  writeFrame(*smf, score, project, song);
  int channel = 0;
  for (const auto& part : project.parts) {
    std::vector<const ScoreEvent*> events;
    bool tuned = false;
    for (const auto& event : score.events) {
      const Key* key = findKey(project, score.patches[std::size_t(event.patch)].key);
      if (!key || key->part != part.id || !isStruck(event, 0)) continue;
      events.push_back(&event);
      tuned = tuned || event.tune != 1;
    }
    if (events.empty()) continue;
    const Naming naming = namingOf(project, part.id, tuned, channel);
    smf_track_t* track = newTrack(*smf);
    put(track, 0, meta(0x03, part.name));
    for (const auto& each : notesOf(score, events, naming))
      put(track, each.at,
          {std::uint8_t((each.on ? 0x90 : 0x80) | naming.channel), std::uint8_t(each.note),
           std::uint8_t(each.velocity)});
  }
  const auto bytes = bytesOf(*smf);
  if (!bytes) return bad;
  return writeFileAtomically(path, *bytes, replace.value());
}

} // namespace

Result<void> writeSmf(const Score& score, const Project& project, bool song,
                      const std::filesystem::path& path, Outputs& outputs) {
  return guarded("Writing the MIDI file", path.string(),
                 [&] { return writeAll(score, project, song, path, outputs); });
}

} // namespace tuvvo
