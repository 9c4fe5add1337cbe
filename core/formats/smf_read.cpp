#include "formats/smf_beat.h"

#include "beat/hand.h"
#include "beat/pins.h"
#include "formats/smf_file.h"
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
  std::optional<double> tempo;
  std::optional<Meter> meter;
  bool tempoChanges = false, meterChanges = false, tooMany = false;
};

double ticksOf(const smf_t& smf, const smf_event_t& event) {
  // Frames of film have no beats: they are laid at 120 BPM, the standard's tempo where none is
  // said.
  if (smf.ppqn <= 0) return event.time_seconds * 2 * double(kTicksPerBeat);
  return double(event.time_pulses) / smf.ppqn * double(kTicksPerBeat);
}

void readMeta(std::span<const std::uint8_t> bytes, Contents& contents) {
  if (bytes.size() == 6 && bytes[1] == 0x51) {
    const double micros = double(bytes[3] << 16 | bytes[4] << 8 | bytes[5]);
    if (micros <= 0) return;
    const double bpm = 60e6 / micros;
    if (contents.tempo && std::abs(*contents.tempo - bpm) > 1e-6) contents.tempoChanges = true;
    if (!contents.tempo) contents.tempo = bpm;
  }
  if (bytes.size() == 7 && bytes[1] == 0x58 && bytes[4] <= 5 && bytes[3] >= 1 &&
      bytes[3] <= kMostMeterBeats) {
    const Meter meter{bytes[3], 1 << bytes[4]};
    if (contents.meter && *contents.meter != meter) contents.meterChanges = true;
    if (!contents.meter) contents.meter = meter;
  }
}

Contents contentsOf(smf_t& smf) {
  Contents contents;
  std::map<std::pair<int, int>, std::size_t> held; // notes that have not ended
  std::size_t events = 0;
  while (smf_event_t* event = smf_get_next_event(&smf)) {
    if (++events > kMostSmfEvents || contents.notes.size() >= kMostNotes) {
      contents.tooMany = true;
      break;
    }
    const double at = ticksOf(smf, *event);
    if (!(at >= 0 && at < kLatestTick) || event->midi_buffer_length < 1) continue;
    const std::span bytes(static_cast<const std::uint8_t*>(event->midi_buffer),
                          std::size_t(event->midi_buffer_length));
    if (bytes[0] == 0xff) {
      readMeta(bytes, contents);
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

} // namespace

Result<SmfBeat> readSmfBeat(const std::filesystem::path& path, const Project& project,
                            const std::string& name, const SmfReading& reading) {
  const auto smf = openSmf(path);
  if (!smf) return smf.error();
  const Contents contents = contentsOf(**smf);
  if (contents.notes.empty())
    return Error{"There are no notes in this MIDI file", path.string(), ""};
  SmfBeat out;
  Pattern& pattern = out.pattern;
  out.tempo = TempoMap(Bpm(contents.tempo.value_or(120))).tempo();
  pattern.name = name;
  pattern.meter = contents.meter.value_or(Meter{});
  const double bar = double(barOf(pattern.meter).value), last = contents.notes.back().at;
  pattern.bars = int(std::clamp(std::ceil((last + 1) / bar), 1.0, double(kMostBars)));
  const Beats length = lengthOf(pattern);

  const Key* tones = findKey(project, reading.tones);
  const Hertz root = tones ? rootOf(project, *tones) : Hertz(0);
  const int own = root.value > 0 ? int(std::lround(midiNoteOf(root))) : 60;
  std::size_t beyond = 0, homeless = 0, far = 0;
  std::map<Id, std::vector<Pin>> lanes;
  std::map<std::tuple<Id, Id, std::int64_t>, int> taken;
  const std::int64_t step = kTicksPerBeat / std::max(1, reading.perBeat);
  const double msPerTick = 60'000 / (out.tempo.value * double(kTicksPerBeat));
  for (const auto& note : contents.notes) {
    const Key* key = tones;
    Pin pin;
    if (note.channel == kPercussion) {
      const auto spot = percussionSpot(note.number);
      key = spot ? keyAt(project, spot->row, spot->column, 0) : nullptr;
    } else {
      pin.tune = Semitones(note.number - own);
      pin.length = Beats(std::llround(note.length));
    }
    if (!key || key->part == 0) {
      ++homeless;
      continue;
    }
    if (std::abs(pin.tune.value) > 48) ++far;
    // Named on its nearest line; what is off it leans. A second hit on a line has its own tick.
    const std::int64_t line = std::llround(note.at / double(step)) * step;
    const double ms = (note.at - double(line)) * msPerTick;
    const bool leans =
        std::abs(ms) <= 200 && line < length.value && ++taken[{key->part, key->id, line}] == 1;
    pin.at = Beats(leans ? line : std::llround(note.at));
    pin.lean = Milliseconds(leans ? ms : 0);
    if (pin.at >= length) {
      ++beyond;
      continue;
    }
    pin.key = key->id;
    pin.velocity = note.velocity / 127.0;
    lanes[key->part].push_back(pin);
  }
  if (lanes.empty())
    return Error{"No key of the deck plays the notes of this MIDI file", path.string(),
                 "Choose the key that should play them, and read it again."};
  for (auto& [part, pins] : lanes) laneOf(pattern, part).pins = std::move(pins);
  hold(pattern);
  auto& said = out.warnings;
  if (contents.tempoChanges)
    said.push_back("The file changes its tempo; its hits are laid by beats.");
  if (contents.meterChanges) said.push_back("The file changes its meter; the first one is kept.");
  if (homeless > 0) said.push_back(counted(homeless, "have no key on the deck and were left out."));
  if (beyond > 0) said.push_back(counted(beyond, "lie past the 64th bar and were left out."));
  if (far > 0) said.push_back(counted(far, "lie further than four octaves from their key."));
  if (contents.tooMany) said.push_back("The file is longer than can be read; its end is missing.");
  return out;
}

} // namespace tuvvo
