// Keys of the deck, what they play and the parts they write on.
#include "model/edit_keys.h"

#include "model/bus_parameters.h"
#include "model/change_by_id.h"
#include "model/edits.h"

#include <algorithm>
#include <map>

namespace tuvvo {

namespace {

void clamp(Envelope& e) {
  e.hold.value = std::clamp(e.hold.value, 0.0, 10000.0);
  e.attack.value = std::clamp(e.attack.value, 0.0, 5000.0);
  e.decay.value = std::clamp(e.decay.value, 0.0, 10000.0);
  e.sustain = std::clamp(e.sustain, 0.0, 1.0);
  e.release.value = std::clamp(e.release.value, 0.0, 10000.0);
  for (double* curve : {&e.attackCurve, &e.decayCurve, &e.releaseCurve})
    *curve = std::clamp(*curve, -1.0, 1.0);
}

/// Under the lowest that can be set there is none.
void clampCorner(Hertz& corner) {
  corner = corner.value < 20 ? Hertz(0) : Hertz(std::min(corner.value, 20'000.0));
}

void clamp(LayerPlay& play) {
  play.delay.value = std::clamp(play.delay.value, 0.0, 500.0);
  play.level.value = std::clamp(play.level.value, -60.0, 12.0);
  play.tune.value = std::clamp(play.tune.value, -48.0, 48.0);
  play.upTo = std::clamp(play.upTo, 0.02, 1.0);
  clampCorner(play.highPass);
  clampCorner(play.lowPass);
  play.attack.value = std::clamp(play.attack.value, 0.0, 500.0);
  play.decay.value = std::clamp(play.decay.value, 0.0, 5000.0);
}

void clamp(Key& key) {
  key.column = std::clamp(key.column, 0, kColumns - 1);
  key.level.value = std::clamp(key.level.value, -60.0, 12.0);
  key.pan = std::clamp(key.pan, -1.0, 1.0);
  key.tune.value = std::clamp(key.tune.value, -48.0, 48.0);
  key.fine.value = std::clamp(key.fine.value, -100.0, 100.0);
  key.trimStart.value = std::clamp(key.trimStart.value, 0.0, kMostTrim.value);
  key.trimEnd.value = std::clamp(key.trimEnd.value, 0.0, kMostTrim.value);
  if (key.treatments.size() > kMostTreatments) key.treatments.resize(kMostTreatments);
  for (auto& treatment : key.treatments) clamp(treatment);
  key.loop.from = std::clamp(key.loop.from, 0.0, 0.99);
  key.loop.to = std::clamp(key.loop.to, key.loop.from + 0.01, 1.0);
  key.loop.crossfade.value = std::clamp(key.loop.crossfade.value, 1.0, 500.0);
  clampCorner(key.highPass);
  clampCorner(key.lowPass);
  key.resonance.value = std::clamp(key.resonance.value, 0.0, 24.0);
  clamp(key.envelope);
  clamp(key.filterEnvelope.shape);
  for (double* moves : {&key.filterEnvelope.lowMoves, &key.filterEnvelope.highMoves})
    *moves = std::clamp(*moves, -8.0, 8.0);
  key.choke = std::clamp(key.choke, 0, 8);
  key.glide.value = std::clamp(key.glide.value, 0.0, 2000.0);
  if (key.layers.size() > kMostLayers - 1) key.layers.resize(kMostLayers - 1);
  clamp(key.own);
  for (auto& layer : key.layers) clamp(layer.play);
}

void dropHits(Project& project, const std::function<bool(const Hit&)>& gone) {
  for (auto& pattern : project.patterns) {
    const bool any = std::any_of(pattern->lanes.begin(), pattern->lanes.end(), [&](const Lane& l) {
      return std::any_of(l.hits.begin(), l.hits.end(), gone);
    });
    if (!any) continue;
    auto copy = std::make_shared<Pattern>(*pattern);
    for (auto& lane : copy->lanes) std::erase_if(lane.hits, gone);
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
  for (auto& section : project.sections) std::erase_if(section.mutedParts, unused);
  for (auto& part : project.parts)
    if (part.duck.by != 0 && unused(part.duck.by)) part.duck.by = 0;
  std::erase_if(project.parts, [&](const Part& part) { return unused(part.id); });
}

} // namespace

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

Project withRole(Project project, Id id, Row row) {
  const Key* key = findKey(project, id);
  if (!key || key->row == row) return project;
  int place = 0; // only cuts have more than one page
  while ((row == Row::Cuts || place < kColumns) &&
         keyAt(project, row, place % kColumns, place / kColumns))
    ++place;
  if (row != Row::Cuts && place >= kColumns) return project;
  // Its hits go with it to a part of that role: the one that the source's slices there have.
  Id part = 0;
  for (const auto& other : project.keys)
    if (other.row == row && other.sound.source == key->sound.source && other.sound.cut != 0 &&
        key->sound.cut != 0)
      part = other.part;
  if (part == 0) {
    Part made;
    made.id = part = project.nextId++;
    made.name = nameOf(project, *key);
    made.role = row;
    project.parts.push_back(std::move(made));
  }
  const Id was = key->part;
  changeById(project.keys, id, [&](Key& changed) {
    changed.row = row;
    changed.column = place % kColumns;
    changed.page = place / kColumns;
    changed.part = part;
  });
  for (auto& pattern : project.patterns) {
    const Lane* from = findLane(*pattern, was);
    if (!from || std::none_of(from->hits.begin(), from->hits.end(),
                              [&](const Hit& hit) { return hit.key == id; }))
      continue;
    auto copy = std::make_shared<Pattern>(*pattern);
    std::vector<Hit> moved;
    for (const auto& hit : laneOf(*copy, was).hits)
      if (hit.key == id) moved.push_back(hit);
    std::erase_if(laneOf(*copy, was).hits, [&](const Hit& hit) { return hit.key == id; });
    Lane feel = laneOf(*copy, was);
    Lane& to = laneOf(*copy, part);
    if (to.hits.empty()) {
      feel.hits.clear();
      feel.part = part;
      to = feel;
    }
    to.hits.insert(to.hits.end(), moved.begin(), moved.end());
    std::stable_sort(to.hits.begin(), to.hits.end(),
                     [](const Hit& a, const Hit& b) { return a.at < b.at; });
    pattern = std::move(copy);
  }
  dropUnusedParts(project);
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
  if (row == Row::Floor) { // low tones: one at a time, and they slide
    key.mono = true;
    key.glide = kFloorGlide;
  }
  clamp(key);
  if (added) *added = key.id;
  project.keys.push_back(std::move(key));
  return project;
}

Project withSoundOnDeck(Project project, Row row, const SoundRef& sound, const std::string& name,
                        Id* added) {
  for (Row each : {row, Row::Body, Row::Floor, Row::Air})
    if (const auto column = freeColumn(project, each))
      return withKeySound(std::move(project), each, *column, 0, sound, name, added);
  int place = 0;
  while (keyAt(project, Row::Cuts, place % kColumns, place / kColumns)) ++place;
  return withKeySound(std::move(project), Row::Cuts, place % kColumns, place / kColumns, sound,
                      name, added);
}

Project withKeyChanged(Project project, Id id, const std::function<void(Key&)>& change) {
  changeById(project.keys, id, [&](Key& key) {
    change(key);
    clamp(key);
  });
  return project;
}

Project withSettingsOf(Project project, const Key& from, const std::vector<Id>& to) {
  for (Id id : to)
    project = withKeyChanged(std::move(project), id, [&](Key& key) {
      Key changed = from;
      changed.id = key.id;
      changed.row = key.row;
      changed.column = key.column;
      changed.page = key.page;
      changed.name = key.name;
      changed.sound = key.sound;
      changed.own = key.own;
      changed.layers = key.layers;
      changed.mode = key.mode;
      changed.part = key.part;
      changed.extra = key.extra;
      key = std::move(changed);
    });
  return project;
}

Project withoutKey(Project project, Id id) {
  dropHits(project, [&](const Hit& hit) { return hit.key == id; });
  std::erase_if(project.keys, [&](const Key& key) { return key.id == id; });
  dropUnusedParts(project);
  return project;
}

Project withPartChanged(Project project, Id id, const std::function<void(Part&)>& change) {
  changeById(project.parts, id, [&](Part& part) {
    change(part);
    clamp(part.bus);
    clamp(part.duck);
    if (part.duck.by == id) part.duck.by = 0;
  });
  return project;
}

std::optional<int> freeColumn(const Project& project, Row row) {
  for (int column = 0; column < kColumns; ++column)
    if (!keyAt(project, row, column, 0)) return column;
  return std::nullopt;
}

} // namespace tuvvo
