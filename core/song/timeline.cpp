#include "song/timeline.h"

namespace tuvvo {

Timeline timelineOf(const Project& project) {
  Timeline timeline;
  for (const auto& section : project.sections) {
    PlacedSection placed;
    placed.section = section.id;
    placed.pattern = section.pattern;
    placed.startBar = timeline.bars;
    placed.bars = section.bars;
    placed.start = timeline.length;
    placed.length = wholeBeats(std::int64_t(section.bars) * project.beatsPerBar);
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

} // namespace tuvvo
