#include "beat/pins.h"

#include "model/edits.h"

#include <algorithm>
#include <numeric>
#include <tuple>

namespace tuvvo {

namespace {

/// Enough to tell most pins apart; the rest is left to comparing them.
bool before(const Pin& a, const Pin& b) {
  return std::tie(a.at, a.key, a.lean, a.tune, a.velocity) <
         std::tie(b.at, b.key, b.lean, b.tune, b.velocity);
}

} // namespace

PinSet::PinSet(std::vector<Pin> pins) : m_pins(std::move(pins)) {
  std::sort(m_pins.begin(), m_pins.end(), before);
}

bool PinSet::contains(const Pin& pin) const {
  const auto [first, last] = std::equal_range(m_pins.begin(), m_pins.end(), pin, before);
  return std::find(first, last, pin) != last;
}

Beats lengthOf(const Pattern& pattern) { return barOf(pattern.meter) * pattern.bars; }

Beats lengthOf(const Pattern& pattern, const Lane& lane) {
  return lane.length.value > 0 ? lane.length : lengthOf(pattern);
}

Beats laneLength(const Pattern& pattern, Id part) {
  const Lane* lane = findLane(pattern, part);
  return lane ? lengthOf(pattern, *lane) : lengthOf(pattern);
}

std::optional<Beats> meetingOf(const Pattern& pattern) {
  std::int64_t all = lengthOf(pattern).value;
  for (const auto& lane : pattern.lanes) {
    if (lane.pins.empty()) continue;
    const std::int64_t length = lengthOf(pattern, lane).value,
                       times = length / std::gcd(all, length);
    if (all > kMostMeeting.value / times) return std::nullopt;
    all *= times;
  }
  return Beats(all);
}

Pattern withPin(Pattern pattern, Id part, const Pin& pin) {
  if (pin.at.value < 0 || pin.at >= laneLength(pattern, part)) return pattern;
  Lane& lane = laneOf(pattern, part);
  const auto [first, last] =
      std::equal_range(lane.pins.begin(), lane.pins.end(), pin,
                       [](const Pin& a, const Pin& b) { return a.at < b.at; });
  const auto same = std::find_if(
      first, last, [&](const Pin& p) { return p.key == pin.key && p.tune == pin.tune; });
  if (same != last)
    *same = pin;
  else
    lane.pins.insert(last, pin);
  return pattern;
}

Lane quantised(const Project& project, Meter meter, Lane lane, int perBeat, double strength) {
  const Hearing hearing(project, meter, lane);
  strength = std::clamp(strength, 0.0, 1.0);
  for (auto& pin : lane.pins) {
    // What loosens a pin belongs to the feel and is not pulled away.
    const double played = hearing.placeOf(pin.at) + hearing.ticksOf(pin.lean);
    const Beats line = hearing.nearestLine(played, perBeat);
    pin.lean = hearing.msOf((played - hearing.placeOf(line)) * (1 - strength));
    pin.at = line;
  }
  sortPins(lane);
  return lane;
}

Pattern withBars(Pattern pattern, int bars) {
  bars = std::clamp(bars, 1, kMostBars);
  const Beats old = lengthOf(pattern);
  const bool doubles = bars == pattern.bars * 2;
  pattern.bars = bars;
  const Beats length = lengthOf(pattern);
  for (auto& lane : pattern.lanes) {
    if (lane.length.value > 0) continue;
    if (doubles) {
      const auto before = lane.pins;
      for (Pin pin : before) {
        pin.at += old;
        lane.pins.push_back(pin);
      }
    }
    std::erase_if(lane.pins, [&](const Pin& pin) { return pin.at >= length; });
  }
  if (doubles) {
    const auto before = pattern.chords;
    for (const auto& mark : before) pattern.chords.push_back({mark.at + old, mark.name});
  }
  std::erase_if(pattern.chords, [&](const ChordMark& mark) { return mark.at >= length; });
  return pattern;
}

} // namespace tuvvo
