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

std::optional<Pin> pinOf(const StruckHit& hit, const Pattern& pattern, const Project& project,
                         const TakeOptions& options) {
  const Key* key = findKey(project, hit.key);
  const Part* part = key ? findPart(project, key->part) : nullptr;
  if (!part) return std::nullopt;
  const Lane* known = findLane(pattern, key->part);
  const Lane lane = known ? *known : Lane{};
  const Hearing hearing(project, pattern.meter, lane);
  const Beats length = lengthOf(pattern, lane);
  const double strength =
      std::clamp(options.strength < 0 ? part->pull : options.strength, 0.0, 1.0);
  const int perBeat = options.perBeat > 0 ? options.perBeat : part->perBeat;
  const double at = double(wrapped(hit.at.value, length.value));
  const auto named = [&](Beats line) {
    Pin pin;
    pin.at = line;
    pin.key = hit.key;
    pin.velocity = hearing.velocityFor(hit.key, line, hit.velocity);
    pin.lean = hearing.leanOf(hit.key, line, at) * (1 - strength);
    pin.tune = hit.tune;
    pin.start = hit.start;
    pin.bright = hit.bright;
    if (line >= length) pin.at -= length; // just before the loop's end: early on the next one
    pin.length = key->gate || key->loop.on ? hit.length : Beats(0);
    return pin;
  };
  const auto taken = [&](const Pin& pin) {
    return std::any_of(lane.pins.begin(), lane.pins.end(), [&](const Pin& other) {
      const double apart = std::abs(hearing.heardAt(other) - at);
      return other.key == pin.key && other.at == pin.at && apart > hearing.ticksOf(kSameStrike);
    });
  };
  Pin pin = named(hearing.nearestLine(at, perBeat));
  if (strength >= 1 || !taken(pin)) return pin;
  for (int finer : {2, 4, 8}) {
    pin = named(hearing.nearestLine(at, perBeat * finer));
    if (!taken(pin)) return pin;
  }
  return named(hearing.nearestLine(at, 0));
}

Pattern withTake(Pattern pattern, const Project& project, const std::vector<StruckHit>& hits,
                 const TakeOptions& options) {
  for (const auto& hit : hits)
    if (const auto pin = pinOf(hit, pattern, project, options))
      pattern = withPin(std::move(pattern), findKey(project, hit.key)->part, *pin);
  return pattern;
}

Pattern withoutHeard(Pattern pattern, const Project& project, Id key, Beats from, Beats until) {
  for (auto& lane : pattern.lanes) {
    const Beats length = lengthOf(pattern, lane);
    const std::int64_t begin = wrapped(from.value, length.value),
                       end = wrapped(until.value, length.value);
    const Hearing hearing(project, pattern.meter, lane);
    std::erase_if(lane.pins, [&](const Pin& pin) {
      if (pin.key != key) return false;
      const std::int64_t heard =
          wrapped(toNearest<std::int64_t>(hearing.heardAt(pin)), length.value);
      return begin <= end ? heard >= begin && heard < end : heard >= begin || heard < end;
    });
  }
  return pattern;
}

Pattern withPulled(Pattern pattern, const Project& project, const PullOptions& options) {
  for (auto& lane : pattern.lanes) {
    if (options.part != 0 && lane.part != options.part) continue;
    Lane pulled = lane, left = lane;
    const auto stays = [&](const Pin& pin) {
      return pin.velocity < options.quietest || (options.key != 0 && pin.key != options.key);
    };
    std::erase_if(pulled.pins, stays);
    std::erase_if(left.pins, [&](const Pin& pin) { return !stays(pin); });
    pulled =
        quantised(project, pattern.meter, std::move(pulled), options.perBeat, options.strength);
    lane.pins = std::move(pulled.pins);
    lane.pins.insert(lane.pins.end(), left.pins.begin(), left.pins.end());
    sortPins(lane);
  }
  return pattern;
}

} // namespace tuvvo
