#include "beat/break_pattern.h"

#include "base/convert.h"
#include "beat/hits.h"
#include "model/edits.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace tuvvo {

namespace {

// A grid of thirds has fewer lines, so that any hit lies further from them by chance: in parts of a
// line a hit at random is as far from either.
constexpr double kClearlyBetter = 0.64;

int linesOf(const std::vector<double>& places) {
  const auto roughness = [&](int perBeat) {
    double square = 0;
    for (double place : places)
      square += std::pow(place * perBeat - std::round(place * perBeat), 2);
    return square;
  };
  return roughness(3) < kClearlyBetter * roughness(4) ? 3 : 4;
}

} // namespace

Pattern breakPattern(const Project& project, const Source& source, const BreakReading& reading,
                     const std::function<KeyHit(const ReadHit&)>& playedBy) {
  Pattern pattern;
  const auto grid = gridOf(source);
  pattern.meter = quarters(grid ? std::max(1, grid->meter) : 4);
  const double fold = std::exp2(std::round(std::log2(reading.tempo.value / project.tempo.value)));
  const double bars = reading.beats / fold / quartersOf(pattern.meter);
  pattern.bars = std::clamp(toWhole<int>(std::ceil(bars - 1e-9)), 1, kMostBars);
  const Beats length = lengthOf(pattern);
  std::vector<double> places;
  for (const auto& hit : reading.hits) places.push_back(hit.beat / fold);
  const int perBeat = linesOf(places);
  const std::int64_t step = kTicksPerBeat / perBeat;
  const double msPerBeat = 60'000 / project.tempo.value;
  std::set<std::pair<Id, std::int64_t>> taken;
  for (std::size_t i = 0; i < places.size(); ++i) {
    const KeyHit played = playedBy(reading.hits[i]);
    const Key* key = findKey(project, played.key);
    if (!key || key->part == 0) continue;
    const double place = places[i];
    std::int64_t line = std::max<std::int64_t>(0, toNearest<std::int64_t>(place * perBeat)) * step;
    double late = place - double(line) / double(kTicksPerBeat);
    // Of two of one key on one line the second stands where it was played.
    if (!taken.insert({key->id, line}).second) {
      line = std::max<std::int64_t>(0, toNearest<std::int64_t>(place * double(kTicksPerBeat)));
      late = 0;
    }
    Hit hit;
    hit.at = Beats(wrapped(line, length.value));            // early on the one of the next round
    if (line >= length.value + kTicksPerBeat / 2) continue; // the tail of a reading too long
    hit.microTiming = Milliseconds(late * msPerBeat);
    hit.key = key->id;
    hit.velocity = played.velocity;
    laneOf(pattern, key->part).hits.push_back(hit);
  }
  clamp(pattern);
  return pattern;
}

namespace {

/// In place of what the same keys have there, over and over to the pattern's end.
Pattern laidOver(Pattern pattern, const Pattern& laid) {
  const Beats end = lengthOf(pattern), round = lengthOf(laid);
  for (const auto& lane : laid.lanes) {
    std::set<Id> keys;
    for (const auto& hit : lane.hits) keys.insert(hit.key);
    Lane& to = laneOf(pattern, lane.part);
    to.length = Beats(0);
    std::erase_if(to.hits, [&](const Hit& hit) { return keys.contains(hit.key); });
    for (Beats from; from < end; from += round)
      for (Hit hit : lane.hits) {
        hit.at += from;
        if (hit.at < end) to.hits.push_back(hit);
      }
  }
  return pattern;
}

} // namespace

Project withPatternLaid(Project project, Pattern pattern, Id into, Id* id) {
  if (id) *id = 0;
  if (pattern.lanes.empty()) return project;
  if (findPattern(project, into)) {
    if (id) *id = into;
    return withPatternChanged(std::move(project), into,
                              [&](Pattern& p) { p = laidOver(std::move(p), pattern); });
  }
  for (const auto& known : project.patterns)
    if (known->name == pattern.name) {
      if (id) *id = known->id;
      return withPatternChanged(std::move(project), known->id, [&](Pattern& p) {
        p.bars = pattern.bars;
        p.meter = pattern.meter;
        p.lanes = std::move(pattern.lanes);
      });
    }
  return withPattern(std::move(project), std::move(pattern), id);
}

} // namespace tuvvo
