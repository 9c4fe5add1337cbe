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

double placeAmong(const std::vector<Seconds>& beats, Seconds at) {
  auto after = std::upper_bound(beats.begin(), beats.end(), at);
  after = std::clamp(after, beats.begin() + 1, beats.end() - 1);
  const Seconds a = *(after - 1), b = *after;
  return double(after - 1 - beats.begin()) + (at - a).value / (b - a).value;
}

namespace {

std::size_t nearestBeat(const std::vector<Seconds>& beats, Seconds at) {
  std::size_t best = 0;
  for (std::size_t i = 1; i < beats.size(); ++i)
    if (std::abs(beats[i].value - at.value) < std::abs(beats[best].value - at.value)) best = i;
  return best;
}

/// Played beats at twice or half their number: midpoints put in, or every second taken out.
std::vector<Seconds> atLevel(const std::vector<Seconds>& beats, double ratio, Seconds downbeat) {
  if (std::abs(ratio - 2) < 1e-3) {
    std::vector<Seconds> out;
    for (std::size_t i = 0; i + 1 < beats.size(); ++i) {
      out.push_back(beats[i]);
      out.push_back(Seconds((beats[i].value + beats[i + 1].value) / 2));
    }
    out.push_back(beats.back());
    return out;
  }
  std::vector<Seconds> out;
  for (std::size_t i = nearestBeat(beats, downbeat) % 2; i < beats.size(); i += 2)
    out.push_back(beats[i]);
  return out;
}

} // namespace

std::vector<Seconds> beatsOf(const Source& source) {
  const auto grid = gridOf(source);
  if (!grid) return {};
  const auto& corrections = source.corrections;
  if (source.heard && source.heard->tempo && source.heard->beats.size() >= 2) {
    const bool steady = source.heard->tempo->steady;
    const double ratio = grid->tempo.value / source.heard->tempo->bpm.value;
    const bool level =
        std::abs(ratio - 1) < 1e-6 || std::abs(ratio - 2) < 1e-3 || std::abs(ratio - 0.5) < 1e-3;
    if (!corrections.tempo && !corrections.downbeat) return source.heard->beats;
    // What was followed stays followed, at another level or from another beat.
    if (!steady && level) {
      auto beats = std::abs(ratio - 1) < 1e-6 ? source.heard->beats
                                              : atLevel(source.heard->beats, ratio, grid->downbeat);
      const std::size_t near = nearestBeat(beats, grid->downbeat);
      const std::size_t next = near + 1 < beats.size() ? near + 1 : near - 1;
      const double apart = std::abs(beats[next].value - beats[near].value);
      const double off = (grid->downbeat.value - beats[near].value) / apart;
      if (std::abs(off) >
          0.1) // the beat itself was moved: every beat moves by the same part of one
        for (std::size_t i = 0; i < beats.size(); ++i) {
          const double step = i + 1 < beats.size() ? beats[i + 1].value - beats[i].value : apart;
          beats[i] = Seconds(std::max(0.0, beats[i].value + off * step));
        }
      return beats;
    }
  }
  if (!source.sound && !source.heard) return {};
  const double period = 60.0 / grid->tempo.value, duration = source.sound
                                                                 ? source.sound->duration().value
                                                                 : source.heard->duration.value;
  std::vector<Seconds> beats;
  double at = grid->downbeat.value;
  at -= std::floor((at + 0.001) / period) * period;
  for (; at < duration; at += period) beats.push_back(Seconds(std::max(0.0, at)));
  return beats;
}

std::vector<Seconds> barsOf(const Source& source) {
  const auto grid = gridOf(source);
  const auto beats = beatsOf(source);
  if (!grid || beats.empty()) return {};
  std::vector<Seconds> bars;
  const auto meter = std::size_t(std::max(1, grid->meter));
  for (std::size_t i = nearestBeat(beats, grid->downbeat) % meter; i < beats.size(); i += meter)
    bars.push_back(beats[i]);
  return bars;
}

std::vector<SectionHeard> sectionsOf(const Source& source) {
  if (!source.heard) return {};
  auto sections = source.heard->sections;
  const auto bars = barsOf(source);
  if (bars.empty() || (!source.corrections.tempo && !source.corrections.downbeat)) return sections;
  for (std::size_t i = 1; i < sections.size(); ++i) {
    const auto near = std::min_element(bars.begin(), bars.end(), [&](Seconds a, Seconds b) {
      return std::abs(a.value - sections[i].start.value) <
             std::abs(b.value - sections[i].start.value);
    });
    sections[i].start = sections[i - 1].end = *near;
  }
  std::erase_if(sections, [](const SectionHeard& s) { return s.end <= s.start; });
  return sections;
}

std::vector<Onset> onsetsOf(const Source& source) {
  if (!source.heard) return {};
  auto onsets = source.heard->onsets;
  for (const auto& said : source.corrections.hits)
    for (auto& onset : onsets)
      if (std::abs(onset.at.value - said.at.value) < kSameHit.value) {
        onset.hits = said.hits;
        onset.sure = {1, 1, 1, 1};
      }
  return onsets;
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
