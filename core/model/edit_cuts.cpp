// Cuts of a source, and the keys that play them.
#include "model/change_by_id.h"
#include "model/edit_keys.h"
#include "model/edits.h"

#include <algorithm>
#include <map>

namespace tuvvo {

namespace {

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

/// Within the sound, in order, none of them empty; new ones get numbers.
void putInOrder(std::vector<Cut>& cuts, std::int64_t frames,
                const std::map<Id, std::int64_t>& known, Project& project) {
  for (auto& cut : cuts) {
    cut.start.value = std::clamp<std::int64_t>(cut.start.value, 0, frames);
    cut.end.value = std::clamp<std::int64_t>(cut.end.value, cut.start.value, frames);
  }
  std::erase_if(cuts, [](const Cut& cut) { return cut.end <= cut.start; });
  std::sort(cuts.begin(), cuts.end(), [](const Cut& a, const Cut& b) { return a.start < b.start; });
  for (auto& cut : cuts)
    if (!known.contains(cut.id)) cut.id = project.nextId++;
}

/// Keys of a source's cuts, in the order of their cuts.
std::vector<Key> keysOfCuts(const Project& project, Id source,
                            const std::map<Id, std::int64_t>& began, std::int64_t frames) {
  std::vector<Key> had;
  for (const auto& key : project.keys)
    if (key.sound.source == source && key.sound.cut != 0) had.push_back(key);
  const auto before = [&](const Key& key) {
    const auto at = began.find(key.sound.cut);
    return std::tuple(at != began.end() ? at->second : frames, key.page, key.column);
  };
  std::sort(had.begin(), had.end(),
            [&](const Key& a, const Key& b) { return before(a) < before(b); });
  return had;
}

/// Places in the row of cuts for a source that is dealt anew: those that its keys had, and free
/// ones after them. Without keys yet, a source begins a page of its own.
class RowPlaces {
public:
  RowPlaces(const Project& project, Id source, const std::vector<Key>& had) {
    for (const auto& key : had)
      if (key.row == Row::Cuts) m_places.push_back(key.page * kColumns + key.column);
    std::sort(m_places.begin(), m_places.end());
    for (const auto& key : project.keys) {
      if (key.row != Row::Cuts || (key.sound.source == source && key.sound.cut != 0)) continue;
      const auto place = std::size_t(key.page * kColumns + key.column);
      if (m_used.size() <= place) m_used.resize(place + 1);
      m_used[place] = true;
    }
    const auto usedPages = (m_used.size() + kColumns - 1) / kColumns;
    m_free = !m_places.empty() ? m_places.back() + 1 : int(usedPages) * kColumns;
  }
  int next() {
    if (m_at < m_places.size()) return m_places[m_at++];
    while (std::size_t(m_free) < m_used.size() && m_used[std::size_t(m_free)]) ++m_free;
    return m_free++;
  }

private:
  std::vector<int> m_places;
  std::vector<bool> m_used;
  int m_free = 0;
  std::size_t m_at = 0;
};

} // namespace

Project withCuts(Project project, Id id, const CutSettings& settings, std::vector<Cut> cuts) {
  const Source* source = findSource(project, id);
  if (!source || !source->sound) return project;
  const std::int64_t frames = source->sound->frames().value;
  std::map<Id, std::int64_t> began; // what was there before
  for (const auto& cut : source->cuts) began[cut.id] = cut.start.value;
  putInOrder(cuts, frames, began, project);
  const std::vector<Key> had = keysOfCuts(project, id, began, frames);
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

  // The row of cuts is dealt anew, in the order of the sound.
  RowPlaces places(project, id, had);
  const Key model = had.empty() ? Key{} : had.front();
  std::map<Id, std::size_t> indexOf;
  for (std::size_t k = 0; k < project.keys.size(); ++k) indexOf[project.keys[k].id] = k;
  for (std::size_t i = 0; i < cuts.size(); ++i) {
    const SoundRef ref{id, cuts[i].id};
    if (const Key* known = dealt[i]) {
      const bool inRow = known->row == Row::Cuts;
      const int at = inRow ? places.next() : 0;
      Key& key = project.keys[indexOf.at(known->id)];
      key.sound = ref;
      if (inRow) {
        key.page = at / kColumns;
        key.column = at % kColumns;
      }
      continue;
    }
    const int at = places.next();
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

} // namespace tuvvo
