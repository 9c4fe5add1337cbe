#include "beat/take.h"

#include "base/tempo_map.h"
#include "beat/feel.h"
#include "model/edits.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr Milliseconds kSameHit{15}; ///< two hits of a key nearer than this are one, played again

std::int64_t into(std::int64_t at, Beats length) {
  const std::int64_t inside = at % length.value;
  return inside < 0 ? inside + length.value : inside;
}

/// Where the rest of a hit's place from a line becomes its lean.
Pin pinAt(const StruckHit& hit, Beats at, Beats line, const Lane& lane, double strength,
          const TempoMap& map) {
  const Seconds off = map.secondsAt(at) - map.secondsAt(swung(line, lane.swing, lane.swingPairs)) -
                      toSeconds(lane.lean);
  Pin pin;
  pin.at = line;
  pin.key = hit.key;
  pin.velocity = hit.velocity;
  pin.lean = toMilliseconds(off * (1 - strength));
  pin.tune = hit.tune;
  pin.start = hit.start;
  pin.bright = hit.bright;
  return pin;
}

} // namespace

std::optional<Pin> pinOf(const StruckHit& hit, const Pattern& pattern, const Project& project,
                         const TakeOptions& options) {
  const Key* key = findKey(project, hit.key);
  const Part* part = key ? findPart(project, key->part) : nullptr;
  if (!part) return std::nullopt;
  const Beats length = lengthOf(pattern, project.beatsPerBar);
  const TempoMap map(project.tempo);
  const double strength =
      std::clamp(options.strength < 0 ? part->pull : options.strength, 0.0, 1.0);
  const int perBeat = options.perBeat > 0 ? options.perBeat : part->perBeat;
  const Lane* known = findLane(pattern, key->part);
  const Lane lane = known ? *known : Lane{};
  const Beats at(into(hit.at.value, length));
  const auto named = [&](Beats line) {
    Pin pin = pinAt(hit, at, line, lane, strength, map);
    if (line >= length) pin.at -= length; // just before the loop's end: early on the next one
    pin.length = key->gate || key->loop.on ? hit.length : Beats(0);
    return pin;
  };
  const Frames heard = map.frameAt(at, Hertz(48000));
  const auto taken = [&](const Pin& pin) {
    return std::any_of(lane.pins.begin(), lane.pins.end(), [&](const Pin& other) {
      const auto apart = std::abs((heardAt(other, lane, map, Hertz(48000)) - heard).value);
      return other.key == pin.key && other.at == pin.at &&
             apart > toFrames(kSameHit, Hertz(48000)).value;
    });
  };
  Pin pin = named(nearestLine(at, lane, perBeat));
  if (strength >= 1 || !taken(pin)) return pin;
  for (int finer : {2, 4, 8}) {
    pin = named(nearestLine(at, lane, perBeat * finer));
    if (!taken(pin)) return pin;
  }
  return named(at);
}

Pattern withTake(Pattern pattern, const Project& project, const std::vector<StruckHit>& hits,
                 const TakeOptions& options) {
  for (const auto& hit : hits)
    if (const auto pin = pinOf(hit, pattern, project, options))
      pattern =
          withPin(std::move(pattern), findKey(project, hit.key)->part, *pin, project.beatsPerBar);
  return pattern;
}

Pattern withoutHeard(Pattern pattern, const Project& project, Id key, Beats from, Beats until) {
  const Beats length = lengthOf(pattern, project.beatsPerBar);
  const TempoMap map(project.tempo);
  const std::int64_t begin = into(from.value, length), end = into(until.value, length);
  for (auto& lane : pattern.lanes)
    std::erase_if(lane.pins, [&](const Pin& pin) {
      if (pin.key != key) return false;
      const std::int64_t heard =
          into(map.beatsAt(heardAt(pin, lane, map, Hertz(48000)), Hertz(48000)).value, length);
      return begin <= end ? heard >= begin && heard < end : heard >= begin || heard < end;
    });
  return pattern;
}

Pattern withPulled(Pattern pattern, const PullOptions& options, Bpm tempo) {
  for (auto& lane : pattern.lanes) {
    if (options.part != 0 && lane.part != options.part) continue;
    Lane pulled = lane, left = lane;
    const auto stays = [&](const Pin& pin) {
      return pin.velocity < options.quietest || (options.key != 0 && pin.key != options.key);
    };
    std::erase_if(pulled.pins, stays);
    std::erase_if(left.pins, [&](const Pin& pin) { return !stays(pin); });
    pulled = quantised(std::move(pulled), options.perBeat, options.strength, tempo);
    lane.pins = std::move(pulled.pins);
    lane.pins.insert(lane.pins.end(), left.pins.begin(), left.pins.end());
    std::stable_sort(lane.pins.begin(), lane.pins.end(),
                     [](const Pin& a, const Pin& b) { return a.at < b.at; });
  }
  return pattern;
}

} // namespace tuvvo
