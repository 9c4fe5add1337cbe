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

std::map<Id, PinSet> byPart(const PinClip& clip) {
  std::map<Id, std::vector<Pin>> pins;
  for (const auto& each : clip) pins[each.part].push_back(each.pin);
  std::map<Id, PinSet> out;
  for (auto& [part, of] : pins) out[part] = PinSet(std::move(of));
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

std::vector<Pin> pinsOf(const Pattern& pattern, Id part, BeatClass which) {
  std::vector<Pin> out;
  const Lane* lane = findLane(pattern, part);
  if (!lane) return out;
  for (const auto& pin : lane->pins) {
    const BeatClass is = classOf(pin.at, pattern.meter);
    const bool pulse = is != BeatClass::OffBeats && is != BeatClass::Between;
    if (is == which || (which == BeatClass::OnBeats && pulse)) out.push_back(pin);
  }
  return out;
}

Pattern without(Pattern pattern, const PinClip& chosen) {
  for (const auto& [part, pins] : byPart(chosen))
    std::erase_if(laneOf(pattern, part).pins,
                  [&pins = pins](const Pin& pin) { return pins.contains(pin); });
  return pattern;
}

PinClip changed(const Pattern& pattern, PinClip chosen, const std::function<void(Pin&)>& change) {
  for (auto& each : chosen) {
    change(each.pin);
    each.pin.at.value =
        std::clamp<std::int64_t>(each.pin.at.value, 0, laneLength(pattern, each.part).value - 1);
  }
  return chosen;
}

Pattern withReplaced(Pattern pattern, const PinClip& chosen, const PinClip& by) {
  pattern = without(std::move(pattern), chosen);
  std::map<Id, bool> touched;
  for (const auto& each : by) {
    if (each.pin.at.value < 0 || each.pin.at >= laneLength(pattern, each.part)) continue;
    laneOf(pattern, each.part).pins.push_back(each.pin);
    touched[each.part] = true;
  }
  for (const auto& [part, yes] : touched) sortPins(laneOf(pattern, part));
  return pattern;
}

PinClip stretched(const Pattern& pattern, PinClip chosen, double factor) {
  if (chosen.empty()) return chosen;
  factor = std::clamp(factor, 1.0 / 16, 16.0);
  const auto first =
      std::min_element(chosen.begin(), chosen.end(), [](const auto& a, const auto& b) {
        return a.pin.at < b.pin.at;
      })->pin.at;
  const auto scaled = [&](std::int64_t ticks) {
    return toNearest<std::int64_t>(double(ticks) * factor);
  };
  for (auto& each : chosen) {
    each.pin.at.value = first.value + scaled(each.pin.at.value - first.value);
    each.pin.length.value = scaled(each.pin.length.value);
  }
  std::erase_if(chosen,
                [&](const PinOf& each) { return each.pin.at >= laneLength(pattern, each.part); });
  return chosen;
}

PinClip ramped(PinClip chosen, double from, double to) {
  if (chosen.empty()) return chosen;
  const auto [first, last] =
      std::minmax_element(chosen.begin(), chosen.end(),
                          [](const auto& a, const auto& b) { return a.pin.at < b.pin.at; });
  const double begin = double(first->pin.at.value),
               span = std::max(1.0, double(last->pin.at.value) - begin);
  for (auto& each : chosen)
    each.pin.velocity =
        std::clamp(from + (to - from) * (double(each.pin.at.value) - begin) / span, 0.02, 1.0);
  return chosen;
}

Beats spanOf(const PinClip& clip) {
  if (clip.empty()) return Beats(0);
  const auto [first, last] = std::minmax_element(
      clip.begin(), clip.end(), [](const auto& a, const auto& b) { return a.pin.at < b.pin.at; });
  return wholeBeats((last->pin.at.value - first->pin.at.value) / kTicksPerBeat + 1);
}

Pattern withPasted(Pattern pattern, const PinClip& clip, Beats at, int times, Beats span) {
  if (clip.empty()) return pattern;
  Beats first = clip.front().pin.at;
  for (const auto& each : clip) first = std::min(first, each.pin.at);
  if (span.value <= 0) span = spanOf(clip);
  for (int round = 0; round < std::clamp(times, 1, 256); ++round)
    for (const auto& each : clip) {
      Pin pin = each.pin;
      pin.at += at - first + span * round;
      pattern = withPin(std::move(pattern), each.part, pin);
    }
  return pattern;
}

Pattern writtenOut(Pattern pattern) {
  const Beats length = lengthOf(pattern);
  for (auto& lane : pattern.lanes) {
    if (lane.length.value <= 0) continue;
    std::vector<Pin> all;
    for (Beats from; from < length; from += lane.length)
      for (Pin pin : lane.pins) {
        if (pin.at >= lane.length) continue;
        pin.at += from;
        if (pin.at < length) all.push_back(pin);
      }
    lane.pins = std::move(all);
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
    const Hearing there(project, after.meter, lane), here(project, out.meter, to);
    for (Pin pin : lane.pins) {
      if (!(to.feel == lane.feel)) {
        const double heard = there.heardAt(pin) + double(from.value);
        const double pull = 1 - to.feel.pull, velocity = there.velocityOf(pin);
        const Milliseconds lean = here.leanOf(pin.key, pin.at + from, heard);
        pin.lean = pull > 0.01 ? Milliseconds(std::clamp(lean.value / pull, -200.0, 200.0)) : lean;
        pin.velocity = here.velocityFor(pin.key, pin.at + from, velocity);
      }
      pin.at += from;
      if (pin.at < length) to.pins.push_back(pin);
    }
    sortPins(to);
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
    std::erase_if(lane.pins, [&](const Pin& p) { return p.at < begin || p.at >= end; });
    for (auto& pin : lane.pins) pin.at -= begin;
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
      std::erase_if(lane.pins, [&](const Pin& pin) { return pin.at >= length; });
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
