#include "notes/free_space.h"

#include "audio/resample.h"
#include "base/convert.h"
#include "beat/hand.h"
#include "beat/hits.h"
#include "listen/pitch.h"
#include "listen/spectrum.h"
#include "model/edits.h"
#include "play/bounce.h"
#include "tones/bass_line.h"
#include "tones/theory.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace tuvvo {

namespace {

constexpr double kEarRate = 22050;
constexpr double kAttackS = 0.03;    ///< it has no pitch of its own
constexpr double kHighestKick = 300; ///< Hz
constexpr double kBodyS = 0.25;      ///< of a kick whose pitch falls: where it is mostly heard
constexpr double kFifth = 7;
constexpr double kTogether = 1.0 / 8; ///< beats: a bass note so near begins with the kick
// When the low end is worth a word (common practice, no source).
constexpr double kRubsFrom = 0.35, kRubsTo = 2.2; ///< semitones apart
constexpr double kOverlapWorthSaying = 0.35;

struct Sounding {
  double from = 0, until = 0; ///< ticks, as heard
  int note = 0;
};

/// What a bass holds: up to its length, the next note of its key, or where there is no length half
/// a beat.
std::vector<Sounding> heldBy(const Project& project, const Pattern& pattern, Id keyId) {
  std::vector<Sounding> out;
  const Key* key = findKey(project, keyId);
  const Lane* lane = key ? findLane(pattern, key->part) : nullptr;
  if (!lane) return out;
  const ResolvedTiming timed(project, pattern.meter, *lane);
  const double length = double(lengthOf(pattern).value),
               round = double(lengthOf(pattern, *lane).value);
  for (double from = 0; from < length; from += round)
    for (const auto& hit : lane->hits) {
      if (hit.key != keyId || from + double(hit.at.value) >= length) continue;
      const double at = from + timed.heardAt(hit);
      const double lasts =
          hit.length.value > 0 ? double(hit.length.value) : double(kTicksPerBeat) / 2;
      out.push_back({at, at + lasts, noteOf(project, hit)});
    }
  std::sort(out.begin(), out.end(),
            [](const Sounding& a, const Sounding& b) { return a.from < b.from; });
  for (std::size_t i = 0; i + 1 < out.size(); ++i)
    out[i].until = std::min(out[i].until, out[i + 1].from);
  return out;
}

Milliseconds ringOf(const Samples& mono) {
  constexpr std::size_t grain = toWhole<std::size_t>(0.005 * kEarRate);
  std::vector<float> peaks;
  for (std::size_t at = 0; at + grain <= mono.size(); at += grain)
    peaks.push_back(peakOf(std::span(mono).subspan(at, grain)));
  if (peaks.empty()) return Milliseconds(0);
  const float floor = 0.1f * *std::max_element(peaks.begin(), peaks.end());
  std::size_t last = peaks.size();
  while (last > 0 && peaks[last - 1] < floor) --last;
  return Milliseconds(double(last) * 5);
}

/// The strongest low frequency of a sound whose pitch falls, so that nothing in it repeats exactly:
/// the peak of its spectrum, between bins by a parabola through their levels. 0 for silence.
Hertz strongest(std::span<const float> mono) {
  Fft fft(1 << 15);
  auto input = fft.input();
  const auto size = std::min(mono.size(), toWhole<std::size_t>(kBodyS * kEarRate));
  for (std::size_t i = 0; i < input.size(); ++i) {
    const double window = 0.5 + 0.5 * std::cos(M_PI * double(i) / double(size)); // falls to its end
    input[i] = i < size ? float(double(mono[i]) * window) : 0.0f;
  }
  const auto bins = fft.run();
  const double each = kEarRate / double(input.size());
  const auto level = [&](std::size_t k) { return std::log(double(std::norm(bins[k])) + 1e-30); };
  std::size_t best = 0;
  for (auto k = toWhole<std::size_t>(30 / each); double(k) * each < kHighestKick; ++k)
    if (best == 0 || std::norm(bins[k]) > std::norm(bins[best])) best = k;
  if (best == 0 || std::norm(bins[best]) < 1e-6f) return Hertz(0);
  const double a = level(best - 1), b = level(best), c = level(best + 1), bend = a - 2 * b + c;
  return Hertz((double(best) + (bend < 0 ? 0.5 * (a - c) / bend : 0)) * each);
}

double foldedOctave(double semitones) { return semitones - 12 * std::round(semitones / 12); }

} // namespace

LowSound analyseLow(const Project& project, const Key& key) {
  LowSound out;
  const auto made = recipeOf(project, key);
  if (!made) return out;
  JobContext job;
  const auto sound = bounce(project.sources, *made, job);
  if (!sound) return out;
  const auto mono = resample(monoOf(**sound), (*sound)->rate(), Hertz(kEarRate));
  out.ring = ringOf(mono);
  const auto from = std::min(mono.size(), toWhole<std::size_t>(kAttackS * kEarRate));
  if (mono.size() - from >= toWhole<std::size_t>(0.05 * kEarRate)) {
    PitchFinder pitches;
    const auto body = std::span(mono).subspan(from);
    const auto pitch = pitches.find(body);
    out.fundamental = pitch && pitch->pitch.value < kHighestKick ? pitch->pitch : strongest(body);
  }
  return out;
}

std::optional<LowPair> lowPairOf(const Project& project, const Pattern& pattern) {
  std::map<Id, int> kicks;
  for (const auto& kick : kicksOf(project, pattern)) {
    const Key* key = findKey(project, kick.key);
    if (key && key->sound.cut == 0) ++kicks[kick.key];
  }
  std::map<Id, double> basses; // by how long they sound
  for (const auto& lane : pattern.lanes)
    for (const auto& hit : lane.hits) {
      const Key* key = findKey(project, hit.key);
      // Held or tuned it is a bass; a tom has a note as well, and is neither.
      if (!key || !(key->gate || hit.tune.value != 0)) continue;
      if (rootOf(project, *key).value <= 0) continue;
      if (noteOf(project, hit) < 48) basses[hit.key] += std::max(0.25, inBeats(hit.length));
    }
  if (kicks.empty() || basses.empty()) return std::nullopt;
  const auto most = [](const auto& counts) {
    return std::max_element(counts.begin(), counts.end(),
                            [](const auto& a, const auto& b) { return a.second < b.second; })
        ->first;
  };
  return LowPair{most(kicks), most(basses)};
}

FreeSpace freeSpaceOf(const Project& project, const Pattern& pattern, const LowPair& keys,
                      const LowSound& kick) {
  FreeSpace room;
  room.keys = keys;
  room.kick = kick;
  const double ticksPerMs = project.tempo.value / 60'000 * double(kTicksPerBeat);
  const double ring = kick.ring.value * ticksPerMs, length = double(lengthOf(pattern).value);
  room.ringBeats = ring / double(kTicksPerBeat);
  std::vector<double> kicks;
  for (const auto& each : kicksOf(project, pattern))
    if (each.key == keys.kick) kicks.push_back(each.heard);
  const auto held = heldBy(project, pattern, keys.bass);
  std::map<int, double> notes;
  for (const auto& each : held) notes[each.note] += each.until - each.from;
  double longest = 0;
  for (const auto& [note, time] : notes)
    if (time > longest) {
      longest = time;
      room.bassNote = note;
    }
  if (kick.fundamental.value > 0)
    room.apart = foldedOctave(midiNoteOf(kick.fundamental) - room.bassNote);
  double shared = 0;
  room.freeBeats = length / double(kTicksPerBeat);
  for (std::size_t i = 0; i < kicks.size(); ++i) {
    const double at = kicks[i], next = i + 1 < kicks.size() ? kicks[i + 1] : kicks.front() + length;
    room.freeBeats = std::min(room.freeBeats, (next - at) / double(kTicksPerBeat));
    for (const auto& each : held)
      for (double from : {each.from, each.from + length}) {
        shared +=
            std::max(0.0, std::min(from + each.until - each.from, at + ring) - std::max(from, at));
        const double after = (from - at) / double(kTicksPerBeat);
        if (after > kTogether && from < next && (room.bassAfter == 0 || after < room.bassAfter))
          room.bassAfter = after;
      }
  }
  if (!kicks.empty() && ring > 0)
    room.overlap = std::min(1.0, shared / (ring * double(kicks.size())));
  return room;
}

Project withKickTuned(Project project, const FreeSpace& room) {
  if (room.kick.fundamental.value <= 0) return project;
  const double toFifth = foldedOctave(room.apart - kFifth);
  const double shift = std::abs(toFifth) < std::abs(room.apart) - 1 ? toFifth : room.apart;
  return withKeyChanged(std::move(project), room.keys.kick, [&](Key& key) {
    const double tune = key.tune.value + key.fine.value / 100 - shift, whole = std::round(tune);
    key.tune = Semitones(whole);
    key.fine = Cents((tune - whole) * 100);
  });
}

Project withKickShortened(Project project, const FreeSpace& room) {
  const bool bassFirst =
      room.bassAfter > 0 && (room.freeBeats <= 0 || room.bassAfter < room.freeBeats);
  const double beats = bassFirst ? room.bassAfter : room.freeBeats;
  const double ms = std::clamp(beats * 0.9 * 60'000 / project.tempo.value, 40.0, 10'000.0);
  return withKeyChanged(std::move(project), room.keys.kick, [&](Key& key) {
    key.envelope.hold = Milliseconds(ms / 2);
    key.envelope.decay = Milliseconds(ms / 2);
    key.envelope.decayCurve = 0;
    key.envelope.sustain = 0;
  });
}

Project withBassMoved(Project project, Id patternId, const FreeSpace& room) {
  const PatternPtr pattern = findPattern(project, patternId);
  const Key* bass = findKey(project, room.keys.bass);
  if (!pattern || !bass) return project;
  std::vector<double> kicks;
  for (const auto& each : kicksOf(project, *pattern))
    if (each.key == room.keys.kick) kicks.push_back(each.heard);
  const double ring = std::min(room.ringBeats, room.freeBeats) * double(kTicksPerBeat);
  constexpr std::int64_t sixteenth = kTicksPerBeat / 4;
  const Project before = project;
  return withPatternChanged(std::move(project), patternId, [&](Pattern& changed) {
    Lane& lane = laneOf(changed, bass->part);
    const ResolvedTiming timed(before, changed.meter, lane);
    const Beats round = lengthOf(changed, lane);
    for (auto& hit : lane.hits) {
      if (hit.key != bass->id) continue;
      const double at = timed.heardAt(hit);
      for (double kick : kicks) {
        if (at < kick - kTogether * double(kTicksPerBeat) || at >= kick + ring) continue;
        const auto after =
            toWhole<std::int64_t>(std::ceil((kick + ring) / double(sixteenth) - 1e-6));
        const Beats to(after * sixteenth), moved = to - hit.at;
        if (to >= round || moved.value <= 0) break;
        hit.at = to;
        hit.microTiming = Milliseconds(0);
        if (hit.length.value > 0) hit.length = std::max(Beats(sixteenth / 2), hit.length - moved);
        break;
      }
    }
  });
}

Project withBassDucked(Project project, const FreeSpace& room) {
  const Key *bass = findKey(project, room.keys.bass), *kick = findKey(project, room.keys.kick);
  if (!bass || !kick) return project;
  const Id by = kick->part;
  return withPartChanged(std::move(project), bass->part, [&](Part& part) {
    part.duck.by = by;
    part.duck.back = Milliseconds(std::clamp(room.kick.ring.value, 60.0, 400.0));
  });
}

void addFreeSpaceNotes(const Project& project, std::vector<Note>& notes) {
  std::map<Id, LowSound> heard;
  std::set<std::pair<Id, Id>> said;
  const auto rests = [&](const Section& section, const Key& key) {
    const Part* part = findPart(project, key.part);
    const auto& muted = section.mutedParts;
    return !part || part->muted || std::find(muted.begin(), muted.end(), part->id) != muted.end();
  };
  for (const auto& section : project.sections) {
    const PatternPtr pattern = findPattern(project, section.pattern);
    const auto pair = pattern ? lowPairOf(project, *pattern) : std::nullopt;
    if (!pair) continue;
    const Key *kick = findKey(project, pair->kick), *bass = findKey(project, pair->bass);
    if (rests(section, *kick) || rests(section, *bass)) continue; // they are not heard together
    if (!said.insert({pair->kick, pair->bass}).second) continue;
    const auto [sound, fresh] = heard.emplace(pair->kick, LowSound{});
    if (fresh) sound->second = analyseLow(project, *kick);
    const FreeSpace room = freeSpaceOf(project, *pattern, *pair, sound->second);
    const std::string kickName = nameOf(project, *kick), bassName = nameOf(project, *bass);
    const std::string ids = std::to_string(pair->kick) + ":" + std::to_string(pair->bass);
    const auto add = [&](const char* id, Finding finding,
                         std::function<Project(const Project&)> fix) {
      Note note;
      note.id = id + ids;
      note.stage = Stage::Beat;
      note.finding = std::move(finding);
      note.fix = std::move(fix);
      notes.push_back(std::move(note));
    };
    const double apart = std::abs(room.apart);
    const bool together = room.overlap >= kOverlapWorthSaying &&
                          findPart(project, bass->part)->duck.by != kick->part; // else room is made
    if (together && apart >= kRubsFrom && apart <= kRubsTo)
      add("rub:",
          finding::KickRubs{pattern->name, kickName, bassName, apart, room.overlap,
                            room.kick.fundamental, speltNote(room.bassNote, project.key)},
          [room](const Project& p) { return withKickTuned(p, room); });
    else if (together)
      add("low:", finding::LowsTogether{pattern->name, kickName, bassName, room.overlap},
          [room](const Project& p) { return withBassDucked(p, room); });
    if (room.ringBeats > room.freeBeats && room.freeBeats > 0 && !kick->mono) // else it ends itself
      add("ring:", finding::KickRingsOn{kickName, room.ringBeats, room.freeBeats},
          [room](const Project& p) { return withKickShortened(p, room); });
  }
}

} // namespace tuvvo
