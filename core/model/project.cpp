#include "model/project.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

std::optional<Grid> gridOf(const Source& source) {
  Grid grid;
  if (source.corrections.tempo)
    grid.tempo = *source.corrections.tempo;
  else if (source.heard && source.heard->tempo)
    grid.tempo = source.heard->tempo->bpm;
  else
    return std::nullopt;
  if (source.heard) grid.meter = source.heard->meter;
  if (source.corrections.downbeat)
    grid.downbeat = *source.corrections.downbeat;
  else if (source.heard && !source.heard->downbeats.empty())
    grid.downbeat = source.heard->downbeats.front();
  return grid;
}

std::optional<KeyName> keyOf(const Source& source) {
  if (source.corrections.key) return source.corrections.key;
  if (source.heard && source.heard->key) return source.heard->key->name;
  return std::nullopt;
}

std::vector<Seconds> beatsOf(const Source& source) {
  if (!source.corrections.tempo && !source.corrections.downbeat && source.heard &&
      !source.heard->beats.empty())
    return source.heard->beats;
  const auto grid = gridOf(source);
  if (!grid || !source.sound) return {};
  const double period = 60.0 / grid->tempo.value, duration = source.sound->duration().value;
  std::vector<Seconds> beats;
  double at = grid->downbeat.value;
  at -= std::floor((at + 0.001) / period) * period;
  for (; at < duration; at += period) beats.push_back(Seconds(std::max(0.0, at)));
  return beats;
}

namespace {

template <class Things> auto findById(const Things& things, Id id) {
  const auto found =
      std::find_if(things.begin(), things.end(), [&](const auto& thing) { return thing.id == id; });
  return found == things.end() ? nullptr : &*found;
}

} // namespace

const Source* findSource(const Project& project, Id id) {
  for (const auto& source : project.sources)
    if (source->id == id) return source.get();
  return nullptr;
}

const Cut* findCut(const Source& source, Id id) { return findById(source.cuts, id); }
const Key* findKey(const Project& project, Id id) { return findById(project.keys, id); }
const Part* findPart(const Project& project, Id id) { return findById(project.parts, id); }
const Section* findSection(const Project& project, Id id) { return findById(project.sections, id); }

const Key* keyAt(const Project& project, Row row, int column, int page) {
  for (const auto& key : project.keys)
    if (key.row == row && key.column == column && (row != Row::Cuts || key.page == page))
      return &key;
  return nullptr;
}

PatternPtr findPattern(const Project& project, Id id) {
  for (const auto& pattern : project.patterns)
    if (pattern->id == id) return pattern;
  return nullptr;
}

const Lane* findLane(const Pattern& pattern, Id part) {
  for (const auto& lane : pattern.lanes)
    if (lane.part == part) return &lane;
  return nullptr;
}

int cutPages(const Project& project) {
  int pages = 1;
  for (const auto& key : project.keys)
    if (key.row == Row::Cuts) pages = std::max(pages, key.page + 1);
  return pages;
}

Stretch stretchOf(const Source& source, const SoundRef& ref) {
  if (!source.sound) return {};
  if (ref.cut == 0) return {Frames(0), source.sound->frames()};
  const Cut* cut = findCut(source, ref.cut);
  return cut ? Stretch{cut->start, cut->end} : Stretch{};
}

} // namespace tuvvo
