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

bool cleared(const Provenance& provenance) {
  const auto granted = [](Permission p) {
    return p == Permission::Own || p == Permission::Granted || p == Permission::OpenLicence;
  };
  return granted(provenance.recording) && granted(provenance.composition);
}

std::optional<SoundKind> kindOf(const Source& source) {
  if (source.corrections.kind) return source.corrections.kind;
  return source.heard ? std::optional(source.heard->kind.kind) : std::nullopt;
}

std::optional<KeyName> keyOf(const Source& source) {
  if (source.corrections.key) return source.corrections.key;
  if (source.heard && source.heard->key) return source.heard->key->name;
  return std::nullopt;
}

namespace {

template <class Things> auto findById(const Things& things, Id id) {
  const auto found =
      std::find_if(things.begin(), things.end(), [&](const auto& thing) { return thing.id == id; });
  return found == things.end() ? nullptr : &*found;
}

} // namespace

TempoMap songTempo(const Project& project) {
  std::vector<TempoChange> changes;
  changes.reserve(project.tempoMarks.size());
  for (const auto& mark : project.tempoMarks) changes.push_back(mark.change);
  return TempoMap(project.tempo, changes);
}

const Source* findSource(const Project& project, Id id) {
  for (const auto& source : project.sources)
    if (source->id == id) return source.get();
  return nullptr;
}

const Cut* findCut(const Source& source, Id id) { return findById(source.cuts, id); }
const Key* findKey(const Project& project, Id id) { return findById(project.keys, id); }
const Part* findPart(const Project& project, Id id) { return findById(project.parts, id); }
const Groove* findGroove(const Project& project, Id id) { return findById(project.grooves, id); }
const Section* findSection(const Project& project, Id id) { return findById(project.sections, id); }

bool anySolo(const Project& project) {
  const auto solo = [](const auto& thing) { return thing.solo; };
  return std::any_of(project.roles.begin(), project.roles.end(), solo) ||
         std::any_of(project.parts.begin(), project.parts.end(), solo) ||
         std::any_of(project.keys.begin(), project.keys.end(),
                     [](const Key& key) { return key.muteSolo.solo; });
}

bool soundsOnItsBus(const Project& project, const Key& key, bool anySolo) {
  const Part* part = findPart(project, key.part);
  const MuteSolo& role = project.roles[std::size_t(key.row)];
  if (key.muteSolo.muted || role.muted) return false;
  return !anySolo || key.muteSolo.solo || role.solo || (part && part->solo);
}

bool audible(const Project& project, const Key& key, bool anySolo) {
  const Part* part = findPart(project, key.part);
  return soundsOnItsBus(project, key, anySolo) && !(part && part->muted);
}

bool isTreated(const Key& key) {
  return std::any_of(key.treatments.begin(), key.treatments.end(),
                     [](const Treatment& t) { return t.on; });
}

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

bool isEmpty(const Pattern& pattern) {
  return std::all_of(pattern.lanes.begin(), pattern.lanes.end(),
                     [](const Lane& lane) { return lane.hits.empty(); });
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

Stretch stretchOf(const Source& source, const Key& key) {
  Stretch out = stretchOf(source, key.sound);
  if (out.end <= out.start) return out;
  const Hertz rate = source.sound->rate();
  const std::int64_t last = out.end.value - 1;
  out.start.value = std::min(last, out.start.value + toFrames(key.trimStart, rate).value);
  out.end.value = std::max(out.start.value + 1, out.end.value - toFrames(key.trimEnd, rate).value);
  return out;
}

LayerPlay& playOf(Key& key, int layer) {
  return layer <= 0 || std::size_t(layer) > key.layers.size()
             ? key.own
             : key.layers[std::size_t(layer) - 1].play;
}

Key keyOfLayer(const Key& key, const Layer& layer) {
  Key out = key;
  out.sound = layer.sound;
  out.own = layer.play;
  out.layers.clear();
  out.trimStart = out.trimEnd = Milliseconds(0);
  out.treatments.clear();
  out.loop = {};
  return out;
}

Shape shapeOf(const Source& source, const Key& key) {
  Shape shape = source.shape;
  if (key.method) shape.method = *key.method;
  return shape;
}

} // namespace tuvvo
