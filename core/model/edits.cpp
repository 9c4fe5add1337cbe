#include "model/edits.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

void hold(Key& key) {
  key.column = std::clamp(key.column, 0, kColumns - 1);
  key.level.value = std::clamp(key.level.value, -60.0, 12.0);
  key.pan = std::clamp(key.pan, -1.0, 1.0);
  key.tune.value = std::clamp(key.tune.value, -48.0, 48.0);
  key.fine.value = std::clamp(key.fine.value, -100.0, 100.0);
  auto& e = key.envelope;
  e.attack.value = std::clamp(e.attack.value, 0.0, 5000.0);
  e.decay.value = std::clamp(e.decay.value, 0.0, 10000.0);
  e.sustain = std::clamp(e.sustain, 0.0, 1.0);
  e.release.value = std::clamp(e.release.value, 0.0, 10000.0);
  key.choke = std::clamp(key.choke, 0, 8);
}

void hold(Pattern& pattern) {
  pattern.bars = std::clamp(pattern.bars, 1, kMostBars);
  for (auto& lane : pattern.lanes) {
    lane.swing = std::clamp(lane.swing, 50.0, 80.0);
    lane.lean.value = std::clamp(lane.lean.value, -200.0, 200.0);
    for (auto& pin : lane.pins) {
      pin.at.value = std::max<std::int64_t>(0, pin.at.value);
      pin.velocity = std::clamp(pin.velocity, 0.02, 1.0);
      pin.lean.value = std::clamp(pin.lean.value, -200.0, 200.0);
      pin.tune.value = std::clamp(pin.tune.value, -48.0, 48.0);
      pin.length.value = std::max<std::int64_t>(0, pin.length.value);
    }
    std::stable_sort(lane.pins.begin(), lane.pins.end(),
                     [](const Pin& a, const Pin& b) { return a.at < b.at; });
  }
}

template <class Things, class Change> void changeById(Things& things, Id id, const Change& change) {
  for (auto& thing : things)
    if (thing.id == id) change(thing);
}

void dropPins(Project& project, const std::function<bool(const Pin&)>& gone) {
  for (auto& pattern : project.patterns) {
    const bool any = std::any_of(pattern->lanes.begin(), pattern->lanes.end(), [&](const Lane& l) {
      return std::any_of(l.pins.begin(), l.pins.end(), gone);
    });
    if (!any) continue;
    auto copy = std::make_shared<Pattern>(*pattern);
    for (auto& lane : copy->lanes) std::erase_if(lane.pins, gone);
    pattern = std::move(copy);
  }
}

/// Parts that no key writes on any more go, with their lanes and rests.
void dropUnusedParts(Project& project) {
  const auto unused = [&](Id part) {
    return std::none_of(project.keys.begin(), project.keys.end(),
                        [&](const Key& key) { return key.part == part; });
  };
  for (auto& pattern : project.patterns) {
    if (std::none_of(pattern->lanes.begin(), pattern->lanes.end(),
                     [&](const Lane& lane) { return unused(lane.part); }))
      continue;
    auto copy = std::make_shared<Pattern>(*pattern);
    std::erase_if(copy->lanes, [&](const Lane& lane) { return unused(lane.part); });
    pattern = std::move(copy);
  }
  for (auto& section : project.sections) std::erase_if(section.resting, unused);
  std::erase_if(project.parts, [&](const Part& part) { return unused(part.id); });
}

/// The part that a key's hits are written on: one a source for cuts, else one of its own.
Id partFor(Project& project, Row row, const SoundRef& sound, const std::string& name) {
  if (sound.cut != 0)
    for (const auto& key : project.keys)
      if (key.sound.cut != 0 && key.sound.source == sound.source) return key.part;
  const Source* source = findSource(project, sound.source);
  Part part;
  part.id = project.nextId++;
  part.name = sound.cut != 0 && source ? source->name : name;
  part.role = row;
  project.parts.push_back(part);
  return part.id;
}

} // namespace

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

Project withHitsNamed(Project project, Id source, Seconds at, HitClass hit, bool alikeToo) {
  return withSourceChanged(std::move(project), source, [&](Source& s) {
    if (!s.heard) return;
    const Onset* chosen = nullptr;
    for (const auto& onset : s.heard->onsets)
      if (std::abs(onset.at.value - at.value) < 0.005) chosen = &onset;
    if (!chosen) return;
    auto& said = s.corrections.hits;
    for (const auto& onset : s.heard->onsets) {
      if (&onset != chosen && !(alikeToo && onset.group == chosen->group)) continue;
      std::erase_if(said, [&](const HitCorrection& c) {
        return std::abs(c.at.value - onset.at.value) < 0.005;
      });
      said.push_back({onset.at, {hit}});
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
  std::erase_if(project.sources, [&](const SourcePtr& source) { return source->id == id; });
  return project;
}

Project withCuts(Project project, Id id, const CutSettings& settings, std::vector<Cut> cuts) {
  const Source* source = findSource(project, id);
  if (!source || !source->sound) return project;
  const std::int64_t frames = source->sound->frames().value;
  for (auto& cut : cuts) {
    cut.start.value = std::clamp<std::int64_t>(cut.start.value, 0, frames);
    cut.end.value = std::clamp<std::int64_t>(cut.end.value, cut.start.value, frames);
  }
  std::erase_if(cuts, [](const Cut& cut) { return cut.end <= cut.start; });
  std::sort(cuts.begin(), cuts.end(), [](const Cut& a, const Cut& b) { return a.start < b.start; });
  for (auto& cut : cuts) {
    const Cut* known = cut.id ? findCut(*source, cut.id) : nullptr;
    if (!known) cut.id = project.nextId++;
  }
  std::vector<Key> dealt;
  for (const auto& key : project.keys)
    if (key.row == Row::Cuts && key.sound.source == id && key.sound.cut != 0) dealt.push_back(key);
  std::sort(dealt.begin(), dealt.end(), [](const Key& a, const Key& b) {
    return std::pair(a.page, a.column) < std::pair(b.page, b.column);
  });
  project = withSourceChanged(std::move(project), id, [&](Source& changed) {
    changed.cutting = settings;
    changed.cuts = cuts;
  });

  // Without keys yet, a source begins a page of its own.
  int firstPage = cutPages(project);
  if (!dealt.empty())
    firstPage = dealt.front().page;
  else if (std::none_of(project.keys.begin(), project.keys.end(),
                        [](const Key& key) { return key.row == Row::Cuts; }))
    firstPage = 0;
  const auto usedElsewhere = [&](int page, int column) {
    const Key* key = keyAt(project, Row::Cuts, column, page);
    return key &&
           std::none_of(dealt.begin(), dealt.end(), [&](const Key& d) { return d.id == key->id; });
  };
  int slot = firstPage * kColumns;
  for (std::size_t i = 0; i < cuts.size(); ++i) {
    const std::string name = std::to_string(i + 1);
    const SoundRef ref{id, cuts[i].id};
    if (i < dealt.size()) {
      project = withKeyChanged(std::move(project), dealt[i].id, [&](Key& key) {
        key.sound = ref;
        key.name = name;
      });
      slot = dealt[i].page * kColumns + dealt[i].column + 1;
      continue;
    }
    while (usedElsewhere(slot / kColumns, slot % kColumns)) ++slot;
    Id added = 0;
    project = withKeySound(std::move(project), Row::Cuts, slot % kColumns, slot / kColumns, ref,
                           name, &added);
    const Key model = dealt.empty() ? Key{} : dealt.front();
    project = withKeyChanged(std::move(project), added, [&](Key& key) {
      key.choke = dealt.empty() ? 1 : model.choke; // a new slice ends the last one
      key.tune = model.tune;
      key.fine = model.fine;
    });
    ++slot;
  }
  for (std::size_t i = cuts.size(); i < dealt.size(); ++i)
    project = withoutKey(std::move(project), dealt[i].id);
  return project;
}

Project withKeySound(Project project, Row row, int column, int page, const SoundRef& sound,
                     const std::string& name, Id* added) {
  if (const Key* known = keyAt(project, row, column, page)) {
    if (added) *added = known->id;
    return withKeyChanged(std::move(project), known->id, [&](Key& key) {
      key.sound = sound;
      key.name = name;
    });
  }
  Key key;
  key.part = partFor(project, row, sound, name);
  key.id = project.nextId++;
  key.row = row;
  key.column = column;
  key.page = page;
  key.sound = sound;
  key.name = name;
  hold(key);
  if (added) *added = key.id;
  project.keys.push_back(std::move(key));
  return project;
}

Project withKeyChanged(Project project, Id id, const std::function<void(Key&)>& change) {
  changeById(project.keys, id, [&](Key& key) {
    change(key);
    hold(key);
  });
  return project;
}

Project withoutKey(Project project, Id id) {
  dropPins(project, [&](const Pin& pin) { return pin.key == id; });
  std::erase_if(project.keys, [&](const Key& key) { return key.id == id; });
  dropUnusedParts(project);
  return project;
}

Project withPartChanged(Project project, Id id, const std::function<void(Part&)>& change) {
  changeById(project.parts, id, [&](Part& part) {
    change(part);
    part.level.value = std::clamp(part.level.value, -60.0, 12.0);
  });
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

std::optional<int> freeColumn(const Project& project, Row row) {
  for (int column = 0; column < kColumns; ++column)
    if (!keyAt(project, row, column, 0)) return column;
  return std::nullopt;
}

Project withPattern(Project project, Pattern pattern, Id* added) {
  pattern.id = project.nextId++;
  hold(pattern);
  if (added) *added = pattern.id;
  project.patterns.push_back(std::make_shared<Pattern>(std::move(pattern)));
  return project;
}

Project withPatternChanged(Project project, Id id, const std::function<void(Pattern&)>& change) {
  for (auto& pattern : project.patterns)
    if (pattern->id == id) {
      auto copy = std::make_shared<Pattern>(*pattern);
      change(*copy);
      hold(*copy);
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
