#include "model/edits.h"

#include "model/resolved_source.h"

#include "model/change_by_id.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

Project withTempoAndKeyOf(Project project, const Source& source) {
  if (const auto grid = gridOf(source)) project.tempo = grid->tempo;
  if (const auto key = keyOf(source)) project.key = key;
  return project;
}

Project withSource(Project project, Source source, Id* added) {
  for (const auto& known : project.sources)
    if (known->hash == source.hash && !source.hash.empty()) {
      if (added) *added = known->id;
      return project;
    }
  source.id = project.nextId++;
  if (added) *added = source.id;
  project.sources.push_back(std::make_shared<Source>(std::move(source)));
  return project;
}

Project withSourceChanged(Project project, Id id, const std::function<void(Source&)>& change) {
  for (auto& source : project.sources)
    if (source->id == id) {
      auto copy = std::make_shared<Source>(*source);
      change(*copy);
      source = std::move(copy);
    }
  return project;
}

Project withHitsChanged(Project project, Id source, Seconds at, bool alikeToo,
                        const std::function<void(std::vector<HitClass>&)>& change) {
  return withSourceChanged(std::move(project), source, [&](Source& s) {
    const ResolvedSource resolved(s);
    const auto onsets = resolved.onsets();
    const auto isAt = [](Seconds a, Seconds b) { return std::abs((a - b).value) < kSameHit.value; };
    const auto chosen = std::find_if(onsets.begin(), onsets.end(),
                                     [&](const Onset& onset) { return isAt(onset.at, at); });
    if (chosen == onsets.end()) return;
    auto& said = s.corrections.hits;
    for (const auto& onset : onsets) {
      if (onset.at != chosen->at && !(alikeToo && onset.group == chosen->group)) continue;
      auto hits = onset.hits;
      change(hits);
      if (hits.empty() || (hits == onset.hits && onset.at != chosen->at)) continue;
      std::erase_if(said, [&](const HitCorrection& c) { return isAt(c.at, onset.at); });
      said.push_back({onset.at, std::move(hits)});
    }
    std::sort(said.begin(), said.end(),
              [](const HitCorrection& a, const HitCorrection& b) { return a.at < b.at; });
  });
}

Project withoutSource(Project project, Id id) {
  std::vector<Id> gone;
  for (const auto& key : project.keys)
    if (key.sound.source == id) gone.push_back(key.id);
  for (Id key : gone) project = withoutKey(std::move(project), key);
  for (auto& key : project.keys)
    std::erase_if(key.layers, [&](const Layer& layer) { return layer.sound.source == id; });
  std::erase_if(project.sources, [&](const SourcePtr& source) { return source->id == id; });
  return project;
}

Row suggestedRow(const Source& source) {
  if (!source.heard || source.heard->onsets.empty()) return Row::Body;
  const Onset& first = source.heard->onsets.front();
  const auto is = [&](HitClass hit) {
    return std::find(first.hits.begin(), first.hits.end(), hit) != first.hits.end();
  };
  if (is(HitClass::Kick) && first.brightness.value < 2500) return Row::Floor;
  if (is(HitClass::Hat) || first.brightness.value > 6500) return Row::Air;
  return first.brightness.value < 500 ? Row::Floor : Row::Body;
}

Project withGroove(Project project, Groove groove, Id* added) {
  clamp(groove);
  for (const auto& known : project.grooves) {
    groove.id = known.id;
    if (known == groove) {
      if (added) *added = known.id;
      return project;
    }
  }
  groove.id = project.nextId++;
  if (added) *added = groove.id;
  project.grooves.push_back(std::move(groove));
  return project;
}

Project withPattern(Project project, Pattern pattern, Id* added) {
  pattern.id = project.nextId++;
  clamp(pattern);
  if (added) *added = pattern.id;
  project.patterns.push_back(std::make_shared<Pattern>(std::move(pattern)));
  return project;
}

Project withPatternChanged(Project project, Id id, const std::function<void(Pattern&)>& change) {
  for (auto& pattern : project.patterns)
    if (pattern->id == id) {
      auto copy = std::make_shared<Pattern>(*pattern);
      change(*copy);
      clamp(*copy);
      pattern = std::move(copy);
    }
  return project;
}

Project withoutPattern(Project project, Id id) {
  if (project.patterns.size() < 2) return project;
  std::erase_if(project.patterns, [&](const PatternPtr& pattern) { return pattern->id == id; });
  std::erase_if(project.sections, [&](const Section& section) { return section.pattern == id; });
  return project;
}

Lane& laneOf(Pattern& pattern, Id part) {
  for (auto& lane : pattern.lanes)
    if (lane.part == part) return lane;
  pattern.lanes.push_back({});
  pattern.lanes.back().part = part;
  return pattern.lanes.back();
}

Project withSection(Project project, Section section, std::size_t place, Id* added) {
  section.id = project.nextId++;
  section.bars = std::clamp(section.bars, 1, 256);
  if (added) *added = section.id;
  place = std::min(place, project.sections.size());
  project.sections.insert(project.sections.begin() + std::ptrdiff_t(place), std::move(section));
  return project;
}

Project withSectionChanged(Project project, Id id, const std::function<void(Section&)>& change) {
  changeById(project.sections, id, [&](Section& section) {
    change(section);
    section.bars = std::clamp(section.bars, 1, 256);
  });
  return project;
}

Project withSectionMoved(Project project, Id id, int steps) {
  auto& all = project.sections;
  const auto found =
      std::find_if(all.begin(), all.end(), [&](const Section& s) { return s.id == id; });
  if (found == all.end()) return project;
  const auto from = found - all.begin();
  const auto to = std::clamp<std::ptrdiff_t>(from + steps, 0, std::ptrdiff_t(all.size()) - 1);
  Section moved = std::move(*found);
  all.erase(found);
  all.insert(all.begin() + to, std::move(moved));
  return project;
}

Project withoutSection(Project project, Id id) {
  std::erase_if(project.sections, [&](const Section& section) { return section.id == id; });
  return project;
}

} // namespace tuvvo
