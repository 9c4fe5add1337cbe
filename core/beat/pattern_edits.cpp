#include "beat/pattern_edits.h"

#include "base/convert.h"
#include "model/edits.h"

#include <algorithm>
#include <map>

namespace tuvvo {

namespace {

constexpr std::int64_t kNear = kTicksPerBeat / 32; ///< a place so near to a line stands on it

bool onLine(std::int64_t at, std::int64_t every, std::int64_t offset) {
  const std::int64_t inside = wrapped(at - offset, every);
  return inside <= kNear || inside >= every - kNear;
}

std::map<Id, HitSet> byPart(const HitClip& clip) {
  std::map<Id, std::vector<Hit>> hits;
  for (const auto& each : clip) hits[each.part].push_back(each.hit);
  std::map<Id, HitSet> out;
  for (auto& [part, of] : hits) out[part] = HitSet(std::move(of));
  return out;
}

} // namespace

BeatClass classOf(Beats at, Meter meter) {
  const std::int64_t pulse = pulseOf(meter).value, bar = barOf(meter).value;
  const std::int64_t x = at.value % bar;
  if (onLine(x, bar, 0)) return BeatClass::Downbeats;
  if (onLine(x, pulse, 0))
    return (x + kNear) / pulse % 2 == 1 ? BeatClass::Backbeats : BeatClass::OnBeats;
  return onLine(x, pulse, pulse / 2) ? BeatClass::OffBeats : BeatClass::Between;
}

std::vector<Hit> hitsOf(const Pattern& pattern, Id part, BeatClass which) {
  std::vector<Hit> out;
  const Lane* lane = findLane(pattern, part);
  if (!lane) return out;
  for (const auto& hit : lane->hits) {
    const BeatClass is = classOf(hit.at, pattern.meter);
    const bool pulse = is != BeatClass::OffBeats && is != BeatClass::Between;
    if (is == which || (which == BeatClass::OnBeats && pulse)) out.push_back(hit);
  }
  return out;
}

Pattern without(Pattern pattern, const HitClip& chosen) {
  for (const auto& [part, hits] : byPart(chosen))
    std::erase_if(laneOf(pattern, part).hits,
                  [&hits = hits](const Hit& hit) { return hits.contains(hit); });
  return pattern;
}

HitClip changed(const Pattern& pattern, HitClip chosen, const std::function<void(Hit&)>& change) {
  for (auto& each : chosen) {
    change(each.hit);
    each.hit.at.value =
        std::clamp<std::int64_t>(each.hit.at.value, 0, laneLength(pattern, each.part).value - 1);
  }
  return chosen;
}

Pattern withReplaced(Pattern pattern, const HitClip& chosen, const HitClip& by) {
  pattern = without(std::move(pattern), chosen);
  std::map<Id, bool> touched;
  for (const auto& each : by) {
    if (each.hit.at.value < 0 || each.hit.at >= laneLength(pattern, each.part)) continue;
    laneOf(pattern, each.part).hits.push_back(each.hit);
    touched[each.part] = true;
  }
  for (const auto& [part, yes] : touched) sortHits(laneOf(pattern, part));
  return pattern;
}

HitClip stretched(const Pattern& pattern, HitClip chosen, double factor) {
  if (chosen.empty()) return chosen;
  factor = std::clamp(factor, 1.0 / 16, 16.0);
  const auto first =
      std::min_element(chosen.begin(), chosen.end(), [](const auto& a, const auto& b) {
        return a.hit.at < b.hit.at;
      })->hit.at;
  const auto scaled = [&](std::int64_t ticks) {
    return toNearest<std::int64_t>(double(ticks) * factor);
  };
  for (auto& each : chosen) {
    each.hit.at.value = first.value + scaled(each.hit.at.value - first.value);
    each.hit.length.value = scaled(each.hit.length.value);
  }
  std::erase_if(chosen,
                [&](const HitOf& each) { return each.hit.at >= laneLength(pattern, each.part); });
  return chosen;
}

Beats spanOf(const HitClip& clip) {
  if (clip.empty()) return Beats(0);
  const auto [first, last] = std::minmax_element(
      clip.begin(), clip.end(), [](const auto& a, const auto& b) { return a.hit.at < b.hit.at; });
  return wholeBeats((last->hit.at.value - first->hit.at.value) / kTicksPerBeat + 1);
}

Pattern withPasted(Pattern pattern, const HitClip& clip, Beats at, int times, Beats span) {
  if (clip.empty()) return pattern;
  Beats first = clip.front().hit.at;
  for (const auto& each : clip) first = std::min(first, each.hit.at);
  if (span.value <= 0) span = spanOf(clip);
  for (int round = 0; round < std::clamp(times, 1, 256); ++round)
    for (const auto& each : clip) {
      Hit hit = each.hit;
      hit.at += at - first + span * round;
      pattern = withHit(std::move(pattern), each.part, hit);
    }
  return pattern;
}

Pattern writtenOut(Pattern pattern) {
  const Beats length = lengthOf(pattern);
  for (auto& lane : pattern.lanes) {
    if (lane.length.value <= 0) continue;
    std::vector<Hit> all;
    for (Beats from; from < length; from += lane.length)
      for (Hit hit : lane.hits) {
        if (hit.at >= lane.length) continue;
        hit.at += from;
        if (hit.at < length) all.push_back(hit);
      }
    lane.hits = std::move(all);
    lane.length = Beats(0);
  }
  return pattern;
}

Pattern joined(const Project& project, const Pattern& first, const Pattern& second) {
  Pattern out = writtenOut(first);
  const Pattern after = writtenOut(second);
  const Beats from = lengthOf(out), bar = barOf(out.meter);
  const std::int64_t more = (lengthOf(after).value + bar.value - 1) / bar.value;
  out.bars = int(std::min<std::int64_t>(kMostBars, out.bars + more));
  const Beats length = lengthOf(out);
  for (const auto& lane : after.lanes) {
    const bool fresh = findLane(out, lane.part) == nullptr;
    Lane& to = laneOf(out, lane.part);
    if (fresh) to.feel = lane.feel;
    const ResolvedTiming there(project, after.meter, lane), here(project, out.meter, to);
    for (Hit hit : lane.hits) {
      if (!(to.feel == lane.feel)) {
        const double heard = there.heardAt(hit) + double(from.value);
        const double pull = 1 - to.feel.quantiseStrength, velocity = there.velocityOf(hit);
        const Milliseconds microTiming = here.microTimingOf(hit.key, hit.at + from, heard);
        hit.microTiming = pull > 0.01
                              ? Milliseconds(std::clamp(microTiming.value / pull, -200.0, 200.0))
                              : microTiming;
        hit.velocity = here.velocityFor(hit.key, hit.at + from, velocity);
      }
      hit.at += from;
      if (hit.at < length) to.hits.push_back(hit);
    }
    sortHits(to);
  }
  for (const auto& mark : after.chords)
    if (mark.at + from < length) out.chords.push_back({mark.at + from, mark.name});
  return out;
}

Pattern barsOf(const Pattern& pattern, int from, int bars) {
  Pattern out = writtenOut(pattern);
  from = std::clamp(from, 0, out.bars - 1);
  bars = std::clamp(bars, 1, out.bars - from);
  const Beats begin = barOf(out.meter) * from, end = begin + barOf(out.meter) * bars;
  out.bars = bars;
  for (auto& lane : out.lanes) {
    std::erase_if(lane.hits, [&](const Hit& p) { return p.at < begin || p.at >= end; });
    for (auto& hit : lane.hits) hit.at -= begin;
  }
  std::vector<ChordMark> chords;
  for (const auto& mark : out.chords) {
    if (mark.at >= end) break;
    if (mark.at <= begin) chords.clear(); // the one that sounds on into these bars
    chords.push_back({std::max(Beats(0), mark.at - begin), mark.name});
  }
  out.chords = std::move(chords);
  return out;
}

Pattern withMeter(Pattern pattern, Meter meter) {
  const std::int64_t before = lengthOf(pattern).value;
  pattern.meter = meter;
  const std::int64_t bar = barOf(meter).value;
  pattern.bars = int(std::clamp<std::int64_t>((before + bar - 1) / bar, 1, kMostBars));
  const Beats length = lengthOf(pattern);
  for (auto& lane : pattern.lanes)
    if (lane.length.value <= 0)
      std::erase_if(lane.hits, [&](const Hit& hit) { return hit.at >= length; });
  return pattern;
}

Project withAlternative(Project project, Id id, Id* added) {
  const PatternPtr found = findPattern(project, id);
  if (!found) return project;
  const Id family = found->family != 0 ? found->family : found->id;
  project = withPatternChanged(std::move(project), id, [&](Pattern& p) { p.family = family; });
  Pattern copy = *findPattern(project, id);
  const auto several = familyOf(project, id).size() + 1;
  const PatternPtr eldest = findPattern(project, family);
  copy.name = (eldest ? eldest->name : copy.name) + " · " + std::to_string(several);
  return withPattern(std::move(project), std::move(copy), added);
}

std::vector<PatternPtr> familyOf(const Project& project, Id id) {
  std::vector<PatternPtr> out;
  const PatternPtr found = findPattern(project, id);
  if (!found) return out;
  for (const auto& pattern : project.patterns)
    if (pattern->id == id || (found->family != 0 && pattern->family == found->family))
      out.push_back(pattern);
  return out;
}

Project withFamilyPlaying(Project project, Id id) {
  const auto family = familyOf(project, id);
  for (auto& section : project.sections)
    if (std::any_of(family.begin(), family.end(),
                    [&](const PatternPtr& p) { return p->id == section.pattern; }))
      section.pattern = id;
  return project;
}

} // namespace tuvvo
