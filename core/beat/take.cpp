#include "beat/take.h"

#include "base/convert.h"
#include "model/edits.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr Milliseconds kSameStrike{
    15}; ///< two hits of a key nearer than this are one, played again

} // namespace

std::optional<Hit> hitOf(const RecordedHit& struck, const Pattern& pattern, const Project& project,
                         const TakeOptions& options) {
  const Key* key = findKey(project, struck.key);
  const Part* part = key ? findPart(project, key->part) : nullptr;
  if (!part) return std::nullopt;
  const Lane* known = findLane(pattern, key->part);
  const Lane lane = known ? *known : Lane{};
  const ResolvedTiming timed(project, pattern.meter, lane);
  const Beats length = lengthOf(pattern, lane);
  const double strength =
      std::clamp(options.strength < 0 ? part->quantiseStrength : options.strength, 0.0, 1.0);
  const int perBeat = options.perBeat > 0 ? options.perBeat : part->perBeat;
  const double at = double(wrapped(struck.at.value, length.value));
  const auto named = [&](Beats line) {
    Hit hit;
    hit.at = line;
    hit.key = struck.key;
    hit.velocity = timed.velocityFor(struck.key, line, struck.velocity);
    hit.microTiming = timed.microTimingOf(struck.key, line, at) * (1 - strength);
    hit.tune = struck.tune;
    hit.start = struck.start;
    hit.bright = struck.bright;
    if (line >= length) hit.at -= length; // just before the loop's end: early on the next one
    hit.length = key->gate || key->loop.on ? struck.length : Beats(0);
    return hit;
  };
  const auto taken = [&](const Hit& hit) {
    return std::any_of(lane.hits.begin(), lane.hits.end(), [&](const Hit& other) {
      const double apart = std::abs(timed.heardAt(other) - at);
      return other.key == hit.key && other.at == hit.at && apart > timed.ticksOf(kSameStrike);
    });
  };
  Hit hit = named(timed.nearestLine(at, perBeat));
  if (strength >= 1 || !taken(hit)) return hit;
  for (int finer : {2, 4, 8}) {
    hit = named(timed.nearestLine(at, perBeat * finer));
    if (!taken(hit)) return hit;
  }
  return named(timed.nearestLine(at, 0));
}

Pattern withTake(Pattern pattern, const Project& project, const std::vector<RecordedHit>& hits,
                 const TakeOptions& options) {
  for (const auto& struck : hits)
    if (const auto hit = hitOf(struck, pattern, project, options))
      pattern = withHit(std::move(pattern), findKey(project, struck.key)->part, *hit);
  return pattern;
}

Pattern withoutHeard(Pattern pattern, const Project& project, Id key, Beats from, Beats until) {
  for (auto& lane : pattern.lanes) {
    const Beats length = lengthOf(pattern, lane);
    const std::int64_t begin = wrapped(from.value, length.value),
                       end = wrapped(until.value, length.value);
    const ResolvedTiming timed(project, pattern.meter, lane);
    std::erase_if(lane.hits, [&](const Hit& hit) {
      if (hit.key != key) return false;
      const std::int64_t heard = wrapped(toNearest<std::int64_t>(timed.heardAt(hit)), length.value);
      return begin <= end ? heard >= begin && heard < end : heard >= begin || heard < end;
    });
  }
  return pattern;
}

Pattern withQuantised(Pattern pattern, const Project& project, const QuantiseOptions& options) {
  for (auto& lane : pattern.lanes) {
    if (options.part != 0 && lane.part != options.part) continue;
    Lane pulled = lane, left = lane;
    const auto stays = [&](const Hit& hit) {
      return hit.velocity < options.quietest || (options.key != 0 && hit.key != options.key);
    };
    std::erase_if(pulled.hits, stays);
    std::erase_if(left.hits, [&](const Hit& hit) { return !stays(hit); });
    pulled =
        quantised(project, pattern.meter, std::move(pulled), options.perBeat, options.strength);
    lane.hits = std::move(pulled.hits);
    lane.hits.insert(lane.hits.end(), left.hits.begin(), left.hits.end());
    sortHits(lane);
  }
  return pattern;
}

} // namespace tuvvo
