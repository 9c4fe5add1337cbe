#include "model/pattern.h"

#include "listen/chord_name.h"

#include <algorithm>

namespace tuvvo {

namespace {

void clamp(double& value, double low, double high) { value = std::clamp(value, low, high); }

} // namespace

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

Milliseconds glideOf(const Hit& hit, const Key& key) {
  if (hit.glide.time.value >= 0) return hit.glide.time;
  if (key.mono && key.glide.value > 0) return key.glide;
  return hit.glide.from.value == 0 ? Milliseconds(0) : kUsualGlide;
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
