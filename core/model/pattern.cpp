#include "model/pattern.h"

#include "listen/listening.h"

#include <algorithm>

namespace tuvvo {

namespace {

template <class Tag, class Rep> void clamp(Quantity<Tag, Rep>& quantity, Rep low, Rep high) {
  quantity.value = std::clamp(quantity.value, low, high);
}
void clamp(double& value, double low, double high) { value = std::clamp(value, low, high); }

} // namespace

void clamp(Hit& hit) {
  hit.at = std::max(hit.at, Beats(0));
  hit.length = std::max(hit.length, Beats(0));
  clamp(hit.velocity, 0.02, 1);
  clamp(hit.microTiming, -200.0, 200.0);
  clamp(hit.tune, -48.0, 48.0);
  clamp(hit.start, 0, kLatestStart);
  clamp(hit.bright, -10, 10);
  clamp(hit.pan, -1, 1);
  hit.roll.hits = std::clamp(hit.roll.hits, 1, kMostRoll);
  hit.roll.step = std::clamp(hit.roll.step, kShortestStep, wholeBeats(4));
  clamp(hit.roll.endLevel, 0.02, 4);
  clamp(hit.roll.endTune, -48.0, 48.0);
  clamp(hit.flam.before, 0.0, 100.0);
  clamp(hit.flam.level, 0.02, 1);
  clamp(hit.condition.chance, 0, 1);
  hit.condition.every = std::clamp(hit.condition.every, 1, kMostRounds);
  hit.condition.turn = std::clamp(hit.condition.turn, 1, hit.condition.every);
}

void clamp(Feel& feel) {
  clamp(feel.swing8, 50, 80);
  clamp(feel.swing16, 50, 80);
  clamp(feel.microTiming, -200.0, 200.0);
  feel.lag = std::clamp(feel.lag, -kMostLag, kMostLag);
  clamp(feel.accentDepth, 0, 0.9);
  clamp(feel.humanise, 0.0, 40.0);
  clamp(feel.humaniseLevel, 0, 0.4);
  clamp(feel.quantiseStrength, 0, 1);
  clamp(feel.grooveTiming, 0, 1.5);
  clamp(feel.grooveLevel, 0, 1.5);
}

void clamp(Groove& groove) {
  groove.length = std::clamp(groove.length, Beats(kTicksPerBeat / 8), kMostGroove);
  std::erase_if(groove.steps, [&](const Groove::Step& step) {
    return step.at.value < 0 || step.at >= groove.length;
  });
  for (auto& step : groove.steps) {
    clamp(step.late, -double(kTicksPerBeat) / 4, double(kTicksPerBeat) / 4);
    clamp(step.level, 0.1, 4);
  }
  std::stable_sort(groove.steps.begin(), groove.steps.end(),
                   [](const auto& a, const auto& b) { return a.at < b.at; });
}

void sortHits(Lane& lane) {
  const auto earlier = [](const Hit& a, const Hit& b) { return a.at < b.at; };
  if (!std::is_sorted(lane.hits.begin(), lane.hits.end(), earlier))
    std::stable_sort(lane.hits.begin(), lane.hits.end(), earlier);
}

void clamp(Pattern& pattern) {
  pattern.bars = std::clamp(pattern.bars, 1, kMostBars);
  pattern.meter.beats = std::clamp(pattern.meter.beats, 1, kMostMeterBeats);
  for (auto& lane : pattern.lanes) {
    clamp(lane.feel);
    if (lane.length.value != 0)
      lane.length = std::clamp(lane.length, kShortestLane, barOf(pattern.meter) * kMostBars);
    for (auto& hit : lane.hits) clamp(hit);
    sortHits(lane);
  }
  std::erase_if(pattern.chords, [](const ChordMark& mark) {
    return mark.at.value < 0 || !chordFromName(mark.name);
  });
  std::stable_sort(pattern.chords.begin(), pattern.chords.end(),
                   [](const ChordMark& a, const ChordMark& b) { return a.at < b.at; });
  if (pattern.chords.size() > kMostChords) pattern.chords.resize(kMostChords);
}

} // namespace tuvvo
