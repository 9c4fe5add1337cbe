#include "song/timeline.h"

namespace tuvvo {

Timeline timelineOf(const Project& project) {
  Timeline timeline;
  for (const auto& section : project.sections) {
    const PatternPtr pattern = findPattern(project, section.pattern);
    PlacedSection placed;
    placed.section = section.id;
    placed.pattern = section.pattern;
    placed.meter = pattern ? pattern->meter : project.meter;
    placed.startBar = timeline.bars;
    placed.bars = section.bars;
    placed.start = timeline.length;
    placed.length = barOf(placed.meter) * section.bars;
    timeline.bars += section.bars;
    timeline.length += placed.length;
    timeline.sections.push_back(placed);
  }
  return timeline;
}

const PlacedSection* sectionAt(const Timeline& timeline, Beats at) {
  for (const auto& placed : timeline.sections)
    if (at >= placed.start && at < placed.start + placed.length) return &placed;
  return nullptr;
}

Beats barAt(const Timeline& timeline, int bar) {
  for (const auto& placed : timeline.sections)
    if (bar < placed.startBar + placed.bars)
      return placed.start + barOf(placed.meter) * std::max(0, bar - placed.startBar);
  return timeline.length;
}

BarPlace barPlaceOf(const Timeline& timeline, Beats at) {
  const PlacedSection* placed = sectionAt(timeline, at);
  if (!placed)
    return barPlaceOf(timeline.sections.empty() ? Meter{} : timeline.sections.front().meter, at);
  BarPlace place = barPlaceOf(placed->meter, at - placed->start);
  place.bar += placed->startBar;
  return place;
}

BarPlace barPlaceOf(Meter meter, Beats at) {
  const std::int64_t bar = barOf(meter).value, unit = unitOf(meter).value;
  const std::int64_t inside = wrapped(at.value, bar);
  return {int((at.value - inside) / bar), int(inside / unit)};
}

} // namespace tuvvo
