#include "model/pattern.h"

#include "listen/listening.h"

#include <algorithm>

namespace tuvvo {

namespace {

template <class Tag, class Rep> void hold(Quantity<Tag, Rep>& quantity, Rep low, Rep high) {
  quantity.value = std::clamp(quantity.value, low, high);
}
void hold(double& value, double low, double high) { value = std::clamp(value, low, high); }

} // namespace

void hold(Pin& pin) {
  pin.at = std::max(pin.at, Beats(0));
  pin.length = std::max(pin.length, Beats(0));
  hold(pin.velocity, 0.02, 1);
  hold(pin.lean, -200.0, 200.0);
  hold(pin.tune, -48.0, 48.0);
  hold(pin.start, 0, kLatestStart);
  hold(pin.bright, -10, 10);
  hold(pin.pan, -1, 1);
  pin.roll.hits = std::clamp(pin.roll.hits, 1, kMostRoll);
  pin.roll.step = std::clamp(pin.roll.step, kShortestStep, wholeBeats(4));
  hold(pin.roll.endLevel, 0.02, 4);
  hold(pin.roll.endTune, -48.0, 48.0);
  hold(pin.flam.before, 0.0, 100.0);
  hold(pin.flam.level, 0.02, 1);
  hold(pin.odds.chance, 0, 1);
  pin.odds.every = std::clamp(pin.odds.every, 1, kMostRounds);
  pin.odds.turn = std::clamp(pin.odds.turn, 1, pin.odds.every);
}

void hold(Feel& feel) {
  hold(feel.swing8, 50, 80);
  hold(feel.swing16, 50, 80);
  hold(feel.lean, -200.0, 200.0);
  feel.lag = std::clamp(feel.lag, -kMostLag, kMostLag);
  hold(feel.accentDepth, 0, 0.9);
  hold(feel.loosen, 0.0, 40.0);
  hold(feel.loosenLevel, 0, 0.4);
  hold(feel.pull, 0, 1);
  hold(feel.grooveTiming, 0, 1.5);
  hold(feel.grooveLevel, 0, 1.5);
}

void hold(Groove& groove) {
  groove.length = std::clamp(groove.length, Beats(kTicksPerBeat / 8), kMostGroove);
  std::erase_if(groove.steps, [&](const Groove::Step& step) {
    return step.at.value < 0 || step.at >= groove.length;
  });
  for (auto& step : groove.steps) {
    hold(step.late, -double(kTicksPerBeat) / 4, double(kTicksPerBeat) / 4);
    hold(step.level, 0.1, 4);
  }
  std::stable_sort(groove.steps.begin(), groove.steps.end(),
                   [](const auto& a, const auto& b) { return a.at < b.at; });
}

void sortPins(Lane& lane) {
  const auto earlier = [](const Pin& a, const Pin& b) { return a.at < b.at; };
  if (!std::is_sorted(lane.pins.begin(), lane.pins.end(), earlier))
    std::stable_sort(lane.pins.begin(), lane.pins.end(), earlier);
}

void hold(Pattern& pattern) {
  pattern.bars = std::clamp(pattern.bars, 1, kMostBars);
  pattern.meter.beats = std::clamp(pattern.meter.beats, 1, kMostMeterBeats);
  for (auto& lane : pattern.lanes) {
    hold(lane.feel);
    if (lane.length.value != 0)
      lane.length = std::clamp(lane.length, kShortestLane, barOf(pattern.meter) * kMostBars);
    for (auto& pin : lane.pins) hold(pin);
    sortPins(lane);
  }
  std::erase_if(pattern.chords, [](const ChordMark& mark) {
    return mark.at.value < 0 || !chordFromName(mark.name);
  });
  std::stable_sort(pattern.chords.begin(), pattern.chords.end(),
                   [](const ChordMark& a, const ChordMark& b) { return a.at < b.at; });
  if (pattern.chords.size() > kMostChords) pattern.chords.resize(kMostChords);
}

} // namespace tuvvo
