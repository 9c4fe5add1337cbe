#include "beat/pins.h"

#include "base/tempo_map.h"
#include "beat/feel.h"
#include "model/edits.h"

#include <algorithm>

namespace tuvvo {

namespace {

void sortPins(Lane& lane) {
  std::stable_sort(lane.pins.begin(), lane.pins.end(),
                   [](const Pin& a, const Pin& b) { return a.at < b.at; });
}

bool among(const Pin& pin, const std::vector<Pin>& pins) {
  return std::find(pins.begin(), pins.end(), pin) != pins.end();
}

} // namespace

Beats nearestLine(Beats heard, const Lane& lane, int perBeat) {
  const std::int64_t step = kTicksPerBeat / std::max(1, perBeat);
  const std::int64_t guess = (heard.value + step / 2) / step * step;
  Beats best(guess);
  for (std::int64_t k = -1; k <= 1; ++k) {
    const Beats line(guess + k * step);
    const auto distance = [&](Beats b) {
      return std::abs(swung(b, lane.swing, lane.swingPairs).value - heard.value);
    };
    if (line.value >= 0 && distance(line) < distance(best)) best = line;
  }
  return best;
}

Beats lengthOf(const Pattern& pattern, int beatsPerBar) {
  return wholeBeats(std::int64_t(pattern.bars) * beatsPerBar);
}

Pattern withPin(Pattern pattern, Id part, const Pin& pin, int beatsPerBar) {
  if (pin.at.value < 0 || pin.at >= lengthOf(pattern, beatsPerBar)) return pattern;
  Lane& lane = laneOf(pattern, part);
  std::erase_if(lane.pins, [&](const Pin& p) { return p.at == pin.at && p.key == pin.key; });
  lane.pins.push_back(pin);
  sortPins(lane);
  return pattern;
}

Pattern withoutPins(Pattern pattern, Id part, const std::vector<Pin>& pins) {
  std::erase_if(laneOf(pattern, part).pins, [&](const Pin& pin) { return among(pin, pins); });
  return pattern;
}

Pattern withPinsChanged(Pattern pattern, Id part, const std::vector<Pin>& pins,
                        const std::function<void(Pin&)>& change) {
  Lane& lane = laneOf(pattern, part);
  for (auto& pin : lane.pins)
    if (among(pin, pins)) change(pin);
  sortPins(lane);
  return pattern;
}

Lane quantised(Lane lane, int perBeat, double strength, Bpm tempo) {
  const TempoMap map(tempo);
  strength = std::clamp(strength, 0.0, 1.0);
  for (auto& pin : lane.pins) {
    const Seconds played =
        map.secondsAt(swung(pin.at, lane.swing, lane.swingPairs)) + toSeconds(pin.lean);
    const Beats line = nearestLine(map.beatsAt(played), lane, perBeat);
    const Seconds target = map.secondsAt(swung(line, lane.swing, lane.swingPairs));
    pin.at = line;
    pin.lean = toMilliseconds((played - target) * (1 - strength));
  }
  sortPins(lane);
  return lane;
}

Pattern withBars(Pattern pattern, int bars, int beatsPerBar) {
  bars = std::clamp(bars, 1, kMostBars);
  const Beats old = lengthOf(pattern, beatsPerBar);
  const bool doubles = bars == pattern.bars * 2;
  pattern.bars = bars;
  const Beats length = lengthOf(pattern, beatsPerBar);
  for (auto& lane : pattern.lanes) {
    if (doubles) {
      const auto before = lane.pins;
      for (Pin pin : before) {
        pin.at += old;
        lane.pins.push_back(pin);
      }
    }
    std::erase_if(lane.pins, [&](const Pin& pin) { return pin.at >= length; });
  }
  return pattern;
}

} // namespace tuvvo
