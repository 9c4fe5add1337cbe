#include "beat/flip.h"

#include "base/convert.h"
#include "base/random.h"
#include "beat/hits.h"
#include "beat/start_levels.h"
#include "cut/slicing.h"
#include "model/edits.h"
#include "model/resolved_source.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr int kBars = 2;

struct Slice {
  Id key = 0;
  int slot = 0; ///< its own place in the source, in sixteenths of two bars
  bool kick = false, snare = false;
};

bool has(const Onset& onset, HitClass hit) {
  return std::find(onset.hits.begin(), onset.hits.end(), hit) != onset.hits.end();
}

/// Where each slice stands in the source's own bars, and what it is.
std::vector<Slice> slicesOf(const Project& project, const Source& source) {
  std::vector<Slice> slices;
  const ResolvedSource resolved(source);
  const auto beats = resolved.beats();
  const double rate = source.sound->rate().value;
  const int slots = toWhole<int>(kBars * quartersOf(project.meter)) * 4;
  double first = 0;
  if (source.heard && !source.heard->downbeats.empty())
    first = source.heard->downbeats.front().value;
  std::size_t firstBeat = 0;
  while (firstBeat < beats.size() && beats[firstBeat].value < first - 0.02) ++firstBeat;
  for (const auto& cut : source.cuts) {
    Slice slice;
    for (const auto& key : project.keys)
      if (key.sound == SoundRef{source.id, cut.id}) slice.key = key.id;
    const double at = double(cut.start.value) / rate;
    double beat = double(slices.size());
    for (std::size_t i = 0; i + 1 < beats.size(); ++i)
      if (at >= beats[i].value - 0.03 && at < beats[i + 1].value - 0.03)
        beat =
            double(i) - double(firstBeat) + (at - beats[i].value) / (beats[i + 1] - beats[i]).value;
    slice.slot = ((toNearest<int>(beat * 4) % slots) + slots) % slots;
    if (source.heard)
      for (const auto& onset : source.heard->onsets)
        if (std::abs(onset.cut.value - at) < 0.02) {
          slice.kick = slice.kick || has(onset, HitClass::Kick);
          slice.snare = slice.snare || has(onset, HitClass::Snare);
        }
    if (slice.key) slices.push_back(slice);
  }
  return slices;
}

/// One for each slot, or 0: drums keep low hits on the ones and high ones on two and four; other
/// sound is re-ordered, the first slice first so that it is known again.
std::vector<Id> order(const std::vector<Slice>& slices, bool drums, int slots, Random& random) {
  std::vector<Id> placed(std::size_t(slots), 0);
  const auto choose = [&](const auto& fits) -> Id {
    std::vector<Id> pool;
    for (const auto& slice : slices)
      if (fits(slice)) pool.push_back(slice.key);
    return pool.empty() ? 0 : pool[std::size_t(random.next() % pool.size())];
  };
  if (drums) {
    static constexpr int rhythm[] = {0, 2, 4, 6, 7, 10, 12, 14};
    for (int bar = 0; bar < slots / 16; ++bar)
      for (int at : rhythm) {
        const bool back = at == 4 || at == 12, down = at == 0 || at == 10 || at == 7;
        if (at == 7 && random.unit() < 0.5) continue;
        Id key = choose([&](const Slice& s) {
          return back ? s.snare : down ? s.kick && !s.snare : !s.snare && !s.kick;
        });
        if (!key) key = choose([&](const Slice& s) { return s.slot % 16 == at; });
        if (key) placed[std::size_t(bar * 16 + at)] = key;
      }
    return placed;
  }
  static constexpr int steps[] = {0, 4, 6, 8, 12, 16, 20, 22, 24, 28, 30};
  std::size_t at = 0;
  for (int slot : steps) {
    if (slot >= slots) break;
    if (slot % 4 != 0 && random.unit() < 0.4) continue;
    placed[std::size_t(slot)] = slices[at % slices.size()].key;
    // Mostly onward, now and then again, now and then far ahead: not the source's own order.
    const double turn = random.unit();
    at += turn < 0.25 ? 0 : turn < 0.65 ? 1 : 2 + random.next() % 3;
  }
  return placed;
}

void addSlices(Pattern& pattern, const Project& project, const std::vector<Id>& placed) {
  for (std::size_t slot = 0; slot < placed.size(); ++slot) {
    if (!placed[slot]) continue;
    Hit hit;
    hit.at = Beats(std::int64_t(slot) * kTicksPerBeat / 4);
    hit.key = placed[slot];
    hit.velocity = slot % 4 == 0 ? 0.95 : 0.85;
    pattern = withHit(std::move(pattern), findKey(project, hit.key)->part, hit);
  }
}

/// @param turn  the last bar leads back to the first
void addDrums(Pattern& pattern, const Project& project, int bars, bool turn) {
  const auto strike = [&](Row row, int column, double beat, double velocity) {
    const Key* key = keyAt(project, row, column, 0);
    if (!key) return;
    Hit hit;
    hit.at = Beats(toNearest<std::int64_t>(beat * double(kTicksPerBeat)));
    hit.key = key->id;
    hit.velocity = velocity;
    pattern = withHit(std::move(pattern), key->part, hit);
  };
  const double quarters = quartersOf(pattern.meter);
  for (int bar = 0; bar < bars; ++bar) {
    const double b = bar * quarters;
    const bool last = turn && bar == bars - 1;
    if (!last) strike(Row::Floor, 0, b, 0.9);
    strike(Row::Floor, 0, b + 2.5, 0.78);
    strike(Row::Body, 0, b + 1, 0.8);
    strike(Row::Body, 0, b + 3, 0.84);
    if (last) strike(Row::Body, 0, b + 3.5, 0.6);
    for (int eighth = 0; eighth < toWhole<int>(quarters * 2); ++eighth)
      strike(Row::Air, last && eighth == 7 ? 2 : 0, b + eighth * 0.5, eighth % 2 ? 0.55 : 0.75);
  }
}

} // namespace

Pattern withStarterDrums(Pattern pattern, const Project& project) {
  addDrums(pattern, project, pattern.bars, pattern.bars > 1);
  return pattern;
}

Result<Project> flip(Project start, Source source, const FlipOptions& options) {
  if (!source.sound || !source.heard)
    return Error{"There is nothing to flip", source.name, "Choose a sound that can be read."};
  const Analysis heard = *source.heard;
  const std::string name = source.name;
  const bool drums = std::count_if(heard.onsets.begin(), heard.onsets.end(),
                                   [](const Onset& o) {
                                     return has(o, HitClass::Kick) || has(o, HitClass::Snare);
                                   }) *
                             2 >
                         std::ptrdiff_t(heard.onsets.size()) &&
                     !heard.key;
  const auto grid = gridOf(source);
  start.name = name;
  start.tempo = options.tempo
                    ? *options.tempo
                    : Bpm(grid ? std::clamp(std::round(grid->tempo.value), 60.0, 180.0) : 90.0);
  if (const auto key = keyOf(source)) start.key = key;

  Id id = 0;
  start = withSource(std::move(start), std::move(source), &id);
  CutSettings settings;
  settings.mode = heard.loop && !drums       ? CutMode::Beats
                  : heard.onsets.size() >= 4 ? CutMode::Hits
                                             : CutMode::Equal;
  const auto cuts = cutSource(*findSource(start, id), settings);
  start = withCuts(std::move(start), id, settings, cuts);
  const auto slices = slicesOf(start, *findSource(start, id));
  if (slices.size() < 2)
    return Error{"Fewer than two slices were found", name,
                 "Choose a sound with more than one hit in it."};

  Random random(options.seed);
  const int slots = toWhole<int>(kBars * quartersOf(start.meter)) * 4;
  Pattern a, b;
  a.name = "A";
  b.name = "B";
  a.bars = b.bars = kBars;
  const auto main = order(slices, drums, slots, random);
  addSlices(a, start, main);
  // B is A with another second half: the bar that changes is what carries on.
  auto turned = order(slices, drums, slots, random);
  std::copy(main.begin(), main.begin() + slots / 2, turned.begin());
  addSlices(b, start, turned);
  addDrums(a, start, kBars, false);
  addDrums(b, start, kBars, true);

  Id idA = 0, idB = 0;
  const PatternPtr empty = start.patterns.empty() ? nullptr : start.patterns.front();
  start.sections.clear();
  start = withPattern(std::move(start), a, &idA);
  start = withPattern(std::move(start), b, &idB);
  if (empty) start = withoutPattern(std::move(start), empty->id);
  std::vector<Id> drumParts;
  for (const auto& key : start.keys)
    if (key.row != Row::Cuts) drumParts.push_back(key.part);
  const auto section = [&](const char* label, Id pattern, int bars, std::vector<Id> mutedParts) {
    Section s;
    s.name = label;
    s.pattern = pattern;
    s.bars = bars;
    s.mutedParts = std::move(mutedParts);
    const std::size_t last = start.sections.size();
    start = withSection(std::move(start), s, last);
  };
  section("Intro", idA, 2, drumParts);
  section("Main", idA, 4, {});
  section("Turn", idB, 2, {});
  section("Main", idA, 4, {});
  LoudnessCache loudness;
  std::vector<Id> parts;
  for (const auto& part : start.parts) parts.push_back(part.id);
  return withStartLevels(std::move(start), parts, idB, Among::ByRole, loudness);
}

} // namespace tuvvo
