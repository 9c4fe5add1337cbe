#include "tones/bass_line.h"

#include "base/convert.h"
#include "beat/hand.h"
#include "beat/hits.h"
#include "model/edits.h"
#include "model/resolved_source.h"
#include "tones/theory.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace tuvvo {

namespace {

constexpr double kEighth = double(kTicksPerBeat) / 2, kLongest = 2.0 * double(kTicksPerBeat);
constexpr double kSamePlace = double(kTicksPerBeat) / 16; ///< kicks so near are one
constexpr int kLines = 4;                                 ///< a beat, that notes are written on
constexpr double kNearCutS = 0.02;

bool isKick(const Project& project, const Key& key) {
  const Source* source = findSource(project, key.sound.source);
  if (!source || !source->heard) return false;
  const auto kind = kindOf(*source);
  if (kind != SoundKind::OneShot && kind != SoundKind::Break) return false;
  // A gated sound with one note is a bass, however low it begins.
  if (key.gate && source->heard->root.value > 0) return false;
  const double from =
      source->sound ? toSeconds(stretchOf(*source, key).start, source->sound->rate()).value : 0;
  const ResolvedSource resolved(*source);
  for (const auto& onset : resolved.onsets())
    if (std::abs(onset.cut.value - from) < kNearCutS ||
        (kind == SoundKind::OneShot && onset.at.value < from + 0.1))
      return std::find(onset.hits.begin(), onset.hits.end(), HitClass::Kick) != onset.hits.end();
  return false;
}

/// One note of a line before it is a hit.
struct Note {
  double at = 0, until = 0; ///< ticks, as heard
  ChordName chord;
};

Error noNote(const Project& project, const Key* key) {
  return Error{"This sound has no single note to play a line with",
               key ? nameOf(project, *key) : "no key chosen",
               "Choose a key with a bass or another tone."};
}

Error noChords(const Pattern& pattern) {
  return Error{
      "No chords are heard under this pattern", pattern.name,
      "Play slices of a source with chords in it, or write chords above the pitch ribbon."};
}

/// Where notes begin, by a rhythm.
std::vector<double> startsOf(const Pattern& pattern, const std::vector<ChordSpan>& chords,
                             const std::vector<KickAt>& kicks, BassPlan::Rhythm rhythm) {
  std::vector<double> starts;
  const double length = double(lengthOf(pattern).value);
  const auto kick = [&](std::size_t i) {
    return i < kicks.size() ? kicks[i].heard : kicks.front().heard + length;
  };
  switch (rhythm) {
  case BassPlan::Rhythm::WithKick:
    for (const auto& each : kicks) starts.push_back(each.heard);
    break;
  case BassPlan::Rhythm::BeforeKick:
    for (std::size_t i = 0; i < kicks.size(); ++i)
      starts.push_back(kick(i) >= kEighth ? kick(i) - kEighth : kick(i) - kEighth + length);
    break;
  case BassPlan::Rhythm::OnOnes:
    for (int bar = 0; bar < pattern.bars; ++bar)
      starts.push_back(double((barOf(pattern.meter) * bar).value));
    for (const auto& span : chords) starts.push_back(double(span.from.value));
    break;
  case BassPlan::Rhythm::Answering:
    for (std::size_t i = 0; i < kicks.size(); ++i) {
      const double half = (kick(i + 1) - kick(i)) / 2;
      if (half < kEighth / 2) continue;
      const double at = kick(i) + std::round(half / kEighth) * kEighth;
      if (at < kick(i + 1)) starts.push_back(at < length ? at : at - length);
    }
    break;
  }
  std::sort(starts.begin(), starts.end());
  starts.erase(std::unique(starts.begin(), starts.end(),
                           [](double a, double b) { return b - a < kSamePlace; }),
               starts.end());
  return starts;
}

std::vector<Note> notesOf(const Pattern& pattern, const std::vector<ChordSpan>& chords,
                          const std::vector<double>& starts, const BassPlan& plan) {
  std::vector<Note> notes;
  const double length = double(lengthOf(pattern).value);
  for (std::size_t i = 0; i < starts.size(); ++i) {
    const double next = i + 1 < starts.size() ? starts[i + 1] : starts.front() + length;
    double lasts = std::min(kLongest, next - starts[i]) * plan.length;
    double falls = starts[i]; // on the chord of this place
    if (plan.rhythm == BassPlan::Rhythm::BeforeKick) {
      lasts = std::min(lasts, kEighth);
      falls += kEighth;
    }
    // A hit a little before a change of chord plays the chord that comes.
    const double place = std::fmod(falls + kSamePlace, length);
    notes.push_back({starts[i], starts[i] + lasts,
                     chordAt(chords, Beats(toNearest<std::int64_t>(place)))->chord});
  }
  return notes;
}

/// The step of the key below or above a root from which it is reached; a semitone below without a
/// key.
int leadingTo(int root, int from, const std::optional<KeyName>& key) {
  const int side = from <= root ? -1 : 1;
  for (int away = 1; away <= 2; ++away)
    if (!key || inScale(*key, root + side * away)) return root + side * away;
  return root + side;
}

std::vector<int> pitchesOf(const std::vector<Note>& notes, const BassPlan& plan,
                           const std::optional<KeyName>& key) {
  std::vector<int> out;
  int turn = 0;
  const auto rootOf = [&](const Note& note) { return noteAbove(note.chord.lowest(), plan.lowest); };
  for (std::size_t i = 0; i < notes.size(); ++i) {
    const Note &note = notes[i], &next = notes[(i + 1) % notes.size()];
    const bool same = i > 0 && notes[i - 1].chord == note.chord;
    turn = same ? turn + 1 : 0; // a new chord begins on its root
    int pitch = rootOf(note);
    if (plan.tones == BassPlan::Tones::Fifths && turn % 2 == 1)
      pitch = noteAbove(note.chord.root + note.chord.kind->fifth(), pitch);
    if (plan.tones == BassPlan::Tones::Octaves && turn % 2 == 1) pitch += 12;
    if (plan.tones == BassPlan::Tones::Approach && turn > 0 &&
        next.chord.lowest() != note.chord.lowest())
      pitch = leadingTo(rootOf(next), pitch, key);
    out.push_back(pitch);
  }
  return out;
}

/// A hit that sounds a note from a place to another, on a line of the grid.
Hit toneAt(const ResolvedTiming& timed, Id key, double at, double lasts, int tune, Beats round) {
  Hit hit;
  hit.key = key;
  hit.at = timed.nearestLine(at, kLines);
  hit.microTiming = timed.microTimingOf(key, hit.at, at);
  hit.at = Beats(wrapped(hit.at.value, round.value));
  hit.tune = Semitones(tune);
  hit.length = Beats(std::max<std::int64_t>(kTicksPerBeat / 16, toNearest<std::int64_t>(lasts)));
  return hit;
}

/// The lane of a key's part with nothing of the key in it.
Lane& clearedLane(Pattern& pattern, const Key& key) {
  Lane& lane = laneOf(pattern, key.part);
  std::erase_if(lane.hits, [&](const Hit& hit) { return hit.key == key.id; });
  lane.length = Beats(0);
  return lane;
}

/// The shape of one chord on the root of another.
std::vector<int> parallelTo(const ChordName& shape, const ChordName& chord, const ChordPlan& plan,
                            int lowest) {
  auto notes = voiced(shape, plan.inversion, lowest, plan.voicing);
  const int first = noteAbove(notes.front() + chord.root - shape.root, lowest);
  const int moved = first - notes.front();
  for (int& note : notes) note += moved;
  return notes;
}

int ownNote(const Project& project, const Key& key) {
  const Hertz root = rootOf(project, key);
  return root.value > 0 ? toNearest<int>(midiNoteOf(root)) : 60;
}

} // namespace

std::vector<KickAt> kicksOf(const Project& project, const Pattern& pattern) {
  std::vector<KickAt> out;
  std::map<Id, bool> kicks;
  const double length = double(lengthOf(pattern).value);
  for (const auto& lane : pattern.lanes) {
    const ResolvedTiming timed(project, pattern.meter, lane);
    const double round = double(lengthOf(pattern, lane).value);
    for (const auto& hit : lane.hits) {
      const auto [known, fresh] = kicks.emplace(hit.key, false);
      if (fresh)
        if (const Key* key = findKey(project, hit.key)) known->second = isKick(project, *key);
      if (!known->second || double(hit.at.value) >= round) continue;
      for (double from = 0; from + double(hit.at.value) < length; from += round)
        out.push_back({std::max(0.0, from + timed.heardAt(hit)), hit.key});
    }
  }
  std::stable_sort(out.begin(), out.end(),
                   [](const KickAt& a, const KickAt& b) { return a.heard < b.heard; });
  out.erase(
      std::unique(out.begin(), out.end(),
                  [](const KickAt& a, const KickAt& b) { return b.heard - a.heard < kSamePlace; }),
      out.end());
  return out;
}

Result<Pattern> withBass(const Project& project, const Pattern& pattern, const BassPlan& plan) {
  const Key* key = findKey(project, plan.key);
  if (!key || key->part == 0 || rootOf(project, *key).value <= 0) return noNote(project, key);
  const auto chords = chordsOf(project, pattern);
  if (chords.empty()) return noChords(pattern);
  const auto kicks = kicksOf(project, pattern);
  if (kicks.empty() && plan.rhythm != BassPlan::Rhythm::OnOnes)
    return Error{"There is no kick in this pattern to go by", pattern.name,
                 "Set some kicks, or let the bass play on the ones."};
  BassPlan held = plan;
  held.lowest = std::clamp(plan.lowest, 12, 72);
  held.length = std::clamp(plan.length, 0.1, 1.2);
  const auto notes = notesOf(pattern, chords, startsOf(pattern, chords, kicks, plan.rhythm), held);
  const auto pitches = pitchesOf(notes, held, project.key);
  Pattern out = pattern;
  Lane& lane = clearedLane(out, *key);
  const ResolvedTiming timed(project, out.meter, lane);
  const int own = ownNote(project, *key);
  for (std::size_t i = 0; i < notes.size(); ++i) {
    Hit hit = toneAt(timed, key->id, notes[i].at, notes[i].until - notes[i].at, pitches[i] - own,
                     lengthOf(out));
    hit.velocity = plan.velocity;
    lane.hits.push_back(hit);
  }
  clamp(out);
  return out;
}

Result<Pattern> withChordsPlayed(const Project& project, const Pattern& pattern,
                                 const ChordPlan& plan) {
  const Key* key = findKey(project, plan.key);
  if (!key || key->part == 0 || rootOf(project, *key).value <= 0) return noNote(project, key);
  const auto chords = chordsOf(project, pattern);
  if (chords.empty()) return noChords(pattern);
  const double strum = std::clamp(plan.strum.value, -60.0, 60.0);
  const int lowest = std::clamp(plan.lowest, 24, 84), own = ownNote(project, *key);
  Pattern out = pattern;
  Lane& lane = clearedLane(out, *key);
  const ResolvedTiming timed(project, out.meter, lane);
  for (const auto& span : chords) {
    const auto notes = plan.parallel ? parallelTo(chords.front().chord, span.chord, plan, lowest)
                                     : voiced(span.chord, plan.inversion, lowest, plan.voicing);
    for (std::size_t i = 0; i < notes.size(); ++i) {
      Hit hit =
          toneAt(timed, key->id, double(span.from.value),
                 double((span.until - span.from).value) * 0.97, notes[i] - own, lengthOf(out));
      const auto turn = strum >= 0 ? i : notes.size() - 1 - i;
      hit.microTiming.value += std::abs(strum) * double(turn);
      hit.velocity = plan.velocity;
      lane.hits.push_back(hit);
    }
  }
  clamp(out);
  return out;
}

int noteOf(const Project& project, const Hit& hit) {
  const Key* key = findKey(project, hit.key);
  return (key ? ownNote(project, *key) : 60) + toNearest<int>(hit.tune.value);
}

Agrees agrees(int note, const ChordSpan* chord, const std::optional<KeyName>& key) {
  if (chord && hasTone(chord->chord, note)) return Agrees::Chord;
  return key && inScale(*key, note) ? Agrees::Scale : Agrees::Neither;
}

Project withNoteTuned(Project project, Id id) {
  const Key* key = findKey(project, id);
  const Hertz root = key ? rootOf(project, *key) : Hertz(0);
  if (root.value <= 0) return project;
  const double note = midiNoteOf(root), off = (note - std::round(note)) * 100;
  return withKeyChanged(std::move(project), id, [&](Key& k) {
    const double fine = k.fine.value - off;
    // Fine tune reaches a semitone either way; beyond, whole semitones take it.
    const double whole = std::abs(fine) > 100 ? std::round(fine / 100) : 0;
    k.tune.value += whole;
    k.fine.value = fine - whole * 100;
  });
}

} // namespace tuvvo
