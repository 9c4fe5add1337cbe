#include "beat/slices_in_order.h"

#include "base/convert.h"
#include "beat/hits.h"
#include "model/edits.h"
#include "model/resolved_source.h"
#include "shape/shaped.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

std::string inOrderName(const Source& source) { return source.name + " in order"; }

Project withSlicesInOrder(Project project, Id id, const SlicesInOrder& how, Id* made) {
  if (made) *made = 0;
  const Source* source = findSource(project, id);
  if (!source || !source->sound || source->cuts.empty()) return project;
  const ResolvedSource resolved(*source);
  const TimeLine line = shapedLine(resolved, source->shape, project.tempo);
  const Hertz rate = source->sound->rate();
  const double beatS = 60 / project.tempo.value;
  // Without a tempo the first slice is the first downbeat.
  const double origin =
      resolved.even() ? 0 : line.resultAt(toSeconds(source->cuts.front().start, rate).value);
  const double bar = quartersOf(project.meter), lead = how.countIn ? bar : 0;
  Pattern pattern;
  pattern.meter = project.meter;
  pattern.name = inOrderName(*source);
  double end = 1;
  struct Laid {
    Id part;
    Hit hit;
  };
  std::vector<Laid> laid;
  for (const auto& key : project.keys) {
    const Cut* cut = key.sound.source == id ? findCut(*source, key.sound.cut) : nullptr;
    if (!cut) continue;
    const auto beatAt = [&](Frames frame) {
      return (line.resultAt(toSeconds(frame, rate).value) - origin) / beatS + lead;
    };
    // A cut stands a little before its attack: the first one is not before the bar for that.
    const double at = beatAt(cut->start);
    if (at < -0.05) continue;
    Hit hit;
    hit.at = Beats(std::max<std::int64_t>(0, toNearest<std::int64_t>(at * double(kTicksPerBeat))));
    hit.key = key.id;
    hit.velocity = 1;
    end = std::max(end, beatAt(cut->end));
    laid.push_back({key.part, hit});
  }
  if (laid.empty()) return project;
  const int bars = toWhole<int>(std::ceil((end - 0.1) / bar));
  pattern.bars = std::clamp(bars, 1, kMostBars);
  const Beats length = lengthOf(pattern);
  for (const auto& each : laid)
    if (each.hit.at < length) laneOf(pattern, each.part).hits.push_back(each.hit);
  for (const auto& known : project.patterns)
    if (known->name == pattern.name) {
      if (made) *made = known->id;
      return withPatternChanged(std::move(project), known->id, [&](Pattern& p) {
        p.bars = pattern.bars;
        p.meter = pattern.meter;
        p.lanes = pattern.lanes;
      });
    }
  return withPattern(std::move(project), std::move(pattern), made);
}

} // namespace tuvvo
