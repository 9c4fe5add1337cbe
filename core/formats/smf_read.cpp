#include "base/convert.h"
#include "formats/smf_beat.h"

#include "base/guard.h"
#include "beat/hand.h"
#include "beat/hits.h"
#include "formats/smf_events.h"
#include "formats/smf_tempo.h"
#include "midi/message.h"
#include "midi/percussion.h"
#include "model/edits.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace tuvvo {

namespace {

constexpr int kPercussion = 9; ///< channel 10, counted from 0
constexpr std::size_t kMostNotes = 100'000;
constexpr double kLatestTick = 1e12; ///< what is later is no music

/// A note as it stands in the file.
struct Note {
  double at = 0, length = 0; ///< ticks of ours
  int channel = 0, number = 0, velocity = 0;
};

struct Contents {
  std::vector<Note> notes;
  std::vector<SmfTempo> tempi;
  std::optional<Meter> meter;
  bool meterChanges = false, tooMany = false;
};

constexpr std::size_t kMostTempi = 100'000;

/// @param at  ticks of ours
void readMeta(std::span<const std::uint8_t> bytes, double at, Contents& contents) {
  if (bytes.size() == 5 && bytes[1] == 0x51) {
    const std::uint32_t micros =
        std::uint32_t(bytes[2]) << 16 | std::uint32_t(bytes[3]) << 8 | bytes[4];
    if (micros == 0 || contents.tempi.size() >= kMostTempi) return;
    contents.tempi.push_back({Beats(toNearest<std::int64_t>(at)), micros});
  }
  if (bytes.size() == 6 && bytes[1] == 0x58 && bytes[3] <= 5 && bytes[2] >= 1 &&
      bytes[2] <= kMostMeterBeats) {
    const Meter meter{bytes[2], 1 << bytes[3]};
    if (contents.meter && *contents.meter != meter) contents.meterChanges = true;
    if (!contents.meter) contents.meter = meter;
  }
}

Contents contentsOf(const SmfEvents& file) {
  Contents contents;
  std::map<std::pair<int, int>, std::size_t> held; // notes that have not ended
  contents.tooMany = file.cut;
  for (const auto& event : file.events) {
    if (contents.notes.size() >= kMostNotes) {
      contents.tooMany = true;
      break;
    }
    const double at = event.quarters * double(kTicksPerBeat);
    if (!(at >= 0 && at < kLatestTick)) continue;
    const auto bytes = event.bytes;
    if (bytes[0] == 0xff) {
      readMeta(bytes, at, contents);
      continue;
    }
    const auto message = bytes.size() <= 3 ? messageOf(bytes) : std::nullopt;
    if (!message) continue;
    const std::pair key(message->channel, message->number);
    if (message->kind == MidiKind::NoteOn || message->kind == MidiKind::NoteOff)
      if (const auto begun = held.find(key); begun != held.end()) {
        Note& note = contents.notes[begun->second];
        note.length = std::max(1.0, at - note.at);
        held.erase(begun);
      }
    if (message->kind != MidiKind::NoteOn) continue;
    held[key] = contents.notes.size();
    contents.notes.push_back({at, 0, message->channel, message->number, message->value});
  }
  return contents;
}

std::string counted(std::size_t count, const char* rest) {
  return std::to_string(count) + (count == 1 ? " note " : " notes ") + rest;
}

Result<SmfBeat> beatFrom(const Contents& contents, const std::string& where, const Project& project,
                         const std::string& name, const SmfReading& reading) {
  if (contents.notes.empty())
    return Error{"There are no notes in this MIDI file", where, "Choose another."};
  SmfBeat out;
  Pattern& pattern = out.pattern;
  auto tempi = contents.tempi;
  // What is said before anything sounds holds from the start.
  if (!tempi.empty() && double(tempi[0].at.value) <= contents.notes.front().at)
    tempi[0].at = Beats(0);
  const SmfTempoMap tempo = tempoMapFrom(tempi);
  out.tempo = tempo.tempo;
  out.tempoChanges = tempo.changes;
  const TempoMap map(tempo.tempo, tempo.changes);
  pattern.name = name;
  pattern.meter = contents.meter.value_or(Meter{});
  const double bar = double(barOf(pattern.meter).value), last = contents.notes.back().at;
  pattern.bars = toWhole<int>(std::clamp(std::ceil((last + 1) / bar), 1.0, double(kMostBars)));
  const Beats length = lengthOf(pattern);

  const Key* tones = findKey(project, reading.tones);
  const Hertz root = tones ? rootOf(project, *tones) : Hertz(0);
  const int own = root.value > 0 ? toNearest<int>(midiNoteOf(root)) : 60;
  std::size_t beyond = 0, homeless = 0, far = 0;
  std::map<Id, std::vector<Hit>> lanes;
  std::map<std::tuple<Id, Id, std::int64_t>, int> taken;
  const std::int64_t step = kTicksPerBeat / std::max(1, reading.perBeat);
  for (const auto& note : contents.notes) {
    const Key* key = tones;
    Hit hit;
    if (note.channel == kPercussion) {
      const auto spot = percussionSpot(note.number);
      key = spot ? keyAt(project, spot->row, spot->column, 0) : nullptr;
    } else {
      hit.tune = Semitones(note.number - own);
      hit.length = Beats(toNearest<std::int64_t>(note.length));
    }
    if (!key || key->part == 0) {
      ++homeless;
      continue;
    }
    if (std::abs(hit.tune.value) > 48) ++far;
    // Named on its nearest line; what is off it is micro-timing. A second hit on a line has its own
    // tick.
    const std::int64_t line = toNearest<std::int64_t>(note.at / double(step)) * step;
    const double ms = map.framesBetween(double(line), note.at, Hertz(1000));
    const bool leans =
        std::abs(ms) <= 200 && line < length.value && ++taken[{key->part, key->id, line}] == 1;
    hit.at = Beats(leans ? line : toNearest<std::int64_t>(note.at));
    hit.microTiming = Milliseconds(leans ? ms : 0);
    if (hit.at >= length) {
      ++beyond;
      continue;
    }
    hit.key = key->id;
    hit.velocity = note.velocity / 127.0;
    lanes[key->part].push_back(hit);
  }
  if (lanes.empty())
    return Error{"No key of the deck plays the notes of this MIDI file", where,
                 "Choose the key that should play them, and read it again."};
  for (auto& [part, hits] : lanes) laneOf(pattern, part).hits = std::move(hits);
  clamp(pattern);
  auto& said = out.warnings;
  if (!out.tempoChanges.empty())
    said.push_back("The file changes its tempo; its hits are laid by beats.");
  if (contents.meterChanges) said.push_back("The file changes its meter; the first one is kept.");
  if (homeless > 0) said.push_back(counted(homeless, "have no key on the deck and were left out."));
  if (beyond > 0) said.push_back(counted(beyond, "lie past the 64th bar and were left out."));
  if (far > 0) said.push_back(counted(far, "lie further than four octaves from their key."));
  if (contents.tooMany) said.push_back("The file is longer than can be read; its end is missing.");
  return out;
}

} // namespace

Result<SmfBeat> smfBeatFrom(std::span<const std::uint8_t> bytes, const std::string& where,
                            const Project& project, const std::string& name,
                            const SmfReading& reading) {
  return guarded("Reading the MIDI file", where, [&]() -> Result<SmfBeat> {
    const auto events = readSmfEvents({bytes.begin(), bytes.end()}, where);
    if (!events) return events.error();
    return beatFrom(contentsOf(events.value()), where, project, name, reading);
  });
}

Result<SmfBeat> readSmfBeat(const std::filesystem::path& path, const Project& project,
                            const std::string& name, const SmfReading& reading) {
  return guarded("Reading the MIDI file", path.string(), [&]() -> Result<SmfBeat> {
    const auto events = readSmfFile(path);
    if (!events) return events.error();
    return beatFrom(contentsOf(events.value()), path.string(), project, name, reading);
  });
}

} // namespace tuvvo
