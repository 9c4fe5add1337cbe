// Keys of the deck, what they play and the parts they write on.
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

void clamp(LayerPlay& play) {
  play.delay.value = std::clamp(play.delay.value, 0.0, 500.0);
  play.level.value = std::clamp(play.level.value, -60.0, 12.0);
  play.tune.value = std::clamp(play.tune.value, -48.0, 48.0);
  play.upTo = std::clamp(play.upTo, 0.02, 1.0);
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
  for (Hertz* corner : {&key.highPass, &key.lowPass})
    if (corner->value < 20)
      corner->value = 0;
    else
      corner->value = std::min(corner->value, 20'000.0);
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
  for (auto& section : project.sections) std::erase_if(section.resting, unused);
  for (auto& part : project.parts)
    if (part.duck.by != 0 && unused(part.duck.by)) part.duck.by = 0;
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

/// Which of the keys each cut gets: the one that has it, or had one at its place, or is left over.
/// Null where there are no more.
std::vector<const Key*> dealtTo(const std::vector<Cut>& cuts, const std::vector<Key>& keys,
                                const std::map<Id, std::int64_t>& began, Frames near) {
  std::vector<const Key*> out(cuts.size(), nullptr);
  std::vector<bool> taken(keys.size(), false);
  const auto take = [&](std::size_t cut, std::size_t key) {
    out[cut] = &keys[key];
    taken[key] = true;
  };
  std::multimap<Id, std::size_t> byCut;
  std::multimap<std::int64_t, std::size_t> byStart;
  for (std::size_t k = 0; k < keys.size(); ++k) byCut.emplace(keys[k].sound.cut, k);
  for (std::size_t i = 0; i < cuts.size(); ++i)
    if (const auto known = byCut.find(cuts[i].id); known != byCut.end()) {
      take(i, known->second);
      byCut.erase(known);
    }
  for (std::size_t k = 0; k < keys.size(); ++k)
    if (const auto start = began.find(keys[k].sound.cut); !taken[k] && start != began.end())
      byStart.emplace(start->second, k);
  for (std::size_t i = 0; i < cuts.size(); ++i) {
    if (out[i]) continue;
    const std::int64_t at = cuts[i].start.value;
    auto best = byStart.end();
    for (auto it = byStart.lower_bound(at - near.value);
         it != byStart.end() && it->first <= at + near.value; ++it)
      if (best == byStart.end() || std::abs(it->first - at) < std::abs(best->first - at)) best = it;
    if (best == byStart.end()) continue;
    take(i, best->second);
    byStart.erase(best);
  }
  std::size_t next = 0;
  for (auto& key : out) {
    if (key) continue;
    while (next < keys.size() && taken[next]) ++next;
    if (next == keys.size()) break;
    key = &keys[next];
    taken[next] = true;
  }
  return out;
}

/// Layers of a source's cuts go with their cut, or to the new one that begins where theirs began;
/// others fall away.
void relinkLayers(Project& project, Id source, const std::vector<Cut>& cuts,
                  const std::map<Id, std::int64_t>& began, Frames near) {
  for (auto& key : project.keys)
    std::erase_if(key.layers, [&](Layer& layer) {
      if (layer.sound.source != source || layer.sound.cut == 0) return false;
      const auto at = began.find(layer.sound.cut);
      const Cut* best = nullptr;
      for (const auto& cut : cuts) {
        if (cut.id == layer.sound.cut) return false;
        const auto off = [&](const Cut& c) { return std::abs(c.start.value - at->second); };
        if (at != began.end() && off(cut) <= near.value && (!best || off(cut) < off(*best)))
          best = &cut;
      }
      if (best) layer.sound.cut = best->id;
      return !best;
    });
}

} // namespace

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
  std::map<Id, std::int64_t> began; // what was there before
  for (const auto& cut : source->cuts) began[cut.id] = cut.start.value;
  for (auto& cut : cuts)
    if (!began.contains(cut.id)) cut.id = project.nextId++;
  std::vector<Key> had; // keys of the source's cuts, in the order of their cuts
  for (const auto& key : project.keys)
    if (key.sound.source == id && key.sound.cut != 0) had.push_back(key);
  const auto before = [&](const Key& key) {
    const auto at = began.find(key.sound.cut);
    return std::tuple(at != began.end() ? at->second : frames, key.page, key.column);
  };
  std::sort(had.begin(), had.end(),
            [&](const Key& a, const Key& b) { return before(a) < before(b); });
  const Frames near = toFrames(Milliseconds(30), source->sound->rate());
  const auto dealt = dealtTo(cuts, had, began, near);
  relinkLayers(project, id, cuts, began, near);
  project = withSourceChanged(std::move(project), id, [&](Source& changed) {
    changed.cutting = settings;
    changed.cuts = cuts;
  });
  const std::set<const Key*> kept(dealt.begin(), dealt.end());
  for (const auto& key : had)
    if (!kept.contains(&key)) project = withoutKey(std::move(project), key.id);

  // The row of cuts is dealt anew, in the order of the sound, over the places it had and those
  // after them. Without keys yet, a source begins a page of its own.
  std::vector<int> places;
  for (const auto& key : had)
    if (key.row == Row::Cuts) places.push_back(key.page * kColumns + key.column);
  std::sort(places.begin(), places.end());
  std::vector<bool> used;
  for (const auto& key : project.keys) {
    if (key.row != Row::Cuts || (key.sound.source == id && key.sound.cut != 0)) continue;
    const auto place = std::size_t(key.page * kColumns + key.column);
    if (used.size() <= place) used.resize(place + 1);
    used[place] = true;
  }
  const auto usedPages = (used.size() + kColumns - 1) / kColumns;
  int slot = !places.empty() ? places.back() + 1 : int(usedPages) * kColumns;
  std::size_t place = 0;
  const auto nextPlace = [&] {
    if (place < places.size()) return places[place++];
    while (std::size_t(slot) < used.size() && used[std::size_t(slot)]) ++slot;
    return slot++;
  };
  const Key model = had.empty() ? Key{} : had.front();
  std::map<Id, std::size_t> indexOf;
  for (std::size_t k = 0; k < project.keys.size(); ++k) indexOf[project.keys[k].id] = k;
  for (std::size_t i = 0; i < cuts.size(); ++i) {
    const SoundRef ref{id, cuts[i].id};
    if (const Key* known = dealt[i]) {
      const bool inRow = known->row == Row::Cuts;
      const int at = inRow ? nextPlace() : 0;
      Key& key = project.keys[indexOf.at(known->id)];
      key.sound = ref;
      if (inRow) {
        key.page = at / kColumns;
        key.column = at % kColumns;
      }
      continue;
    }
    const int at = nextPlace();
    Key key;
    key.id = project.nextId++;
    key.part = partFor(project, Row::Cuts, ref, {});
    key.row = Row::Cuts;
    key.page = at / kColumns;
    key.column = at % kColumns;
    key.sound = ref;
    key.choke = had.empty() ? 1 : model.choke; // a new slice ends the last one
    key.tune = model.tune;
    key.fine = model.fine;
    project.keys.push_back(std::move(key));
  }
  return project;
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
      changed.way = key.way;
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
    part.duck.depth.value = std::clamp(part.duck.depth.value, 0.0, 40.0);
    part.duck.back.value = std::clamp(part.duck.back.value, 10.0, 2000.0);
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
