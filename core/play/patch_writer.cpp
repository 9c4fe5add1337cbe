#include "play/patch_writer.h"

#include "base/convert.h"
#include "model/edits.h"

#include <algorithm>
#include <cmath>
#include <set>

namespace tuvvo {

PatchFilters filtersOf(const Key& key) {
  PatchFilters filters;
  filters.low.corner = key.lowPass.value;
  filters.high.corner = key.highPass.value;
  filters.damping = std::sqrt(2.0) / gainOf(key.resonance);
  return filters;
}

namespace {

/// An envelope as voices need it: what is let go still takes a frame.
EnvelopeShape voiceShape(const Envelope& envelope) {
  EnvelopeShape shape = shapeOf(envelope, kEngineRate);
  shape.release.frames = std::max(1, shape.release.frames);
  return shape;
}

/// @param baked  what its order made, if it has one and it is there
Patch played(const Source& source, const Key& key, const Baked& baked) {
  Patch patch;
  patch.key = key.id;
  if (!source.sound) return patch;
  patch.sound = baked ? baked.sound : source.sound;
  const Stretch stretch = stretchOf(source, key);
  patch.start = baked ? Frames(0) : stretch.start;
  patch.end = baked ? baked.sound->frames() : stretch.end;
  patch.loopStart = Frames(baked.loopStart);
  patch.loopEnd = Frames(baked.loopEnd);
  const Hertz rate = patch.sound->rate();
  patch.step =
      rate.value / kEngineRate.value * ratioOf(key.tune + toSemitones(key.fine) + key.own.tune);
  if (!baked) patch.step *= source.shape.pitch();
  const Cut* cut = findCut(source, key.sound.cut);
  const bool trimmed = key.trimStart.value > 0 || key.trimEnd.value > 0;
  if (cut || trimmed) { // what is cut off anywhere is faded against clicks
    const Cut fades = cut ? *cut : Cut{};
    patch.fadeIn = double(toFrames(fades.fadeIn, rate).value);
    patch.fadeOut = patch.loopEnd.value > 0 ? 0 : double(toFrames(fades.fadeOut, rate).value);
  }
  patch.gain = float(gainOf(key.level + key.own.level));
  patch.pan = float(key.pan);
  patch.envelope = voiceShape(key.envelope);
  const auto& moves = key.filterEnvelope;
  patch.filters = filtersOf(key);
  patch.filters.low.moves = moves.lowMoves;
  patch.filters.high.moves = moves.highMoves;
  patch.filters.shape = shapeOf(moves.shape, Hertz(kEngineRate.value / VoiceFilter::kStep));
  patch.gate = key.gate || patch.loopEnd.value > 0;
  patch.choke = key.choke;
  patch.delay = EngineFrames(toFrames(key.own.delay, kEngineRate).value);
  patch.loudest = gainOfVelocity(key.own.upTo);
  if (key.own.inverted) patch.gain = -patch.gain;
  patch.layerFilters.high.corner = key.own.highPass.value;
  patch.layerFilters.low.corner = key.own.lowPass.value;
  patch.shaped = key.own.attack.value > 0 || key.own.decay.value > 0;
  if (patch.shaped) {
    Envelope own;
    own.attack = key.own.attack;
    own.decay = key.own.decay;
    own.sustain = key.own.decay.value > 0 ? 0 : 1;
    patch.layerShape = voiceShape(own);
  }
  patch.mono = key.mono;
  patch.legato = key.mono && key.legato;
  patch.glide = EngineFrames(key.mono ? toFrames(key.glide, kEngineRate).value : 0);
  return patch;
}

} // namespace

/// A key as keys of one sound each: its own and its layers.
std::vector<Key> PatchWriter::layersOf(const Key& key, const HitSound& sound) const {
  std::vector<Key> out{key};
  for (const auto& layer : key.layers) out.push_back(keyOfLayer(key, layer));
  for (auto& each : out) {
    if (sound.reversed) each.treatments.push_back(Treatment{treat::Reverse{}});
    if (sound.treated > 0) {
      const auto& more = m_treated[std::size_t(sound.treated - 1)];
      each.treatments.insert(each.treatments.end(), more.begin(), more.end());
    }
  }
  return out;
}

HitSound PatchWriter::soundOf(const Hit& hit, bool treated) {
  HitSound sound{hit.reversed, 0};
  const auto& list = hit.treatments.list().treatments;
  if (!treated || list.empty()) return sound;
  auto found = std::find(m_treated.begin(), m_treated.end(), list);
  if (found == m_treated.end()) {
    if (m_treated.size() >= kMostTreatedSounds) return sound;
    found = m_treated.insert(found, list);
  }
  sound.treated = int(found - m_treated.begin()) + 1;
  return sound;
}

/// Whatever is struck anywhere is baked, so that it is there when another pattern is chosen.
void PatchWriter::addWhatHitsAsk() {
  std::set<std::pair<HitSound, Id>> asked;
  for (const auto& pattern : m_project.patterns)
    for (const auto& lane : pattern->lanes)
      for (const auto& hit : lane.hits)
        if (hit.reversed || !hit.treatments.empty()) {
          asked.insert({soundOf(hit, true), hit.key});
          if (hit.reversed) asked.insert({soundOf(hit, false), hit.key});
        }
  for (const auto& key : m_project.keys)
    for (const auto& [sound, id] : asked)
      if (id == key.id && sound != HitSound{}) add(key, sound, m_project.tempo);
}

std::optional<BakeOrder> BakeOrders::orderFor(const Source& source, const Key& key, Bpm tempo) {
  if (!source.sound) return std::nullopt;
  const bool treated = key.loop.on || isTreated(key);
  const Shape shape = shapeOf(source, key);
  if (!movesTime(shape) && !treated) return std::nullopt;
  const Stretch stretch = stretchOf(source, key);
  if (stretch.end <= stretch.start) return std::nullopt;
  const ResolvedSource& resolved = m_resolved.try_emplace(source.id, source).first->second;
  TimeLine& line = m_lines[{source.id, shape.method, tempo.value}];
  if (line.knots.empty()) line = shapedLine(resolved, shape, tempo);
  auto recipe = recipeOf(resolved, shape, line, stretch, kEngineRate);
  if (!recipe) {
    if (!treated) return std::nullopt;
    recipe = plainRecipe(source, shape, stretch, kEngineRate);
  }
  BakeOrder order;
  order.sound = source.sound;
  order.recipe = std::move(*recipe);
  if (treated) {
    order.treatments = key.treatments;
    std::erase_if(order.treatments, [](const Treatment& t) { return !t.on; });
    order.frame = {tempo, quartersOf(m_project.meter), kEngineRate, order.recipe.material};
    order.loop = key.loop.on ? key.loop : SliceLoop{};
  }
  order.setNames();
  return order;
}

PatchWriter::PatchWriter(Score& score, const Project& project, const CompileOptions& options)
    : m_score(score), m_project(project), m_options(options), m_orders(project),
      m_solo(anySolo(project)) {
  for (const auto& key : project.keys) add(key, {}, project.tempo);
  addWhatHitsAsk();
}

void PatchWriter::addLayer(const Key& layer, int nth, const HitSound& sound, Bpm tempo) {
  const Source* source = findSource(m_project, layer.sound.source);
  Baked baked;
  if (source && m_options.baked)
    if (const auto order = m_orders.orderFor(*source, layer, tempo))
      baked = m_options.baked(*order);
  Patch patch = source ? played(*source, layer, baked) : Patch{};
  patch.key = layer.id;
  patch.tempo = tempo;
  patch.reversed = sound.reversed;
  patch.treated = sound.treated;
  if (baked)
    patch.lead = leadBeats(layer.treatments) * framesOfBeat(tempo, kEngineRate) / patch.step;
  patch.layer = nth;
  m_score.patches.push_back(std::move(patch));
}

int PatchWriter::add(const Key& key, const HitSound& sound, Bpm tempo) {
  const std::size_t first = m_score.patches.size();
  int nth = 0;
  for (const Key& layer : layersOf(key, sound)) addLayer(layer, nth++, sound, tempo);
  const bool silent = !soundsOnItsBus(m_project, key, m_solo);
  const int bus = m_score.graph.busOf(key.part, key.row);
  bool sounds = false;
  for (std::size_t i = first; i < m_score.patches.size(); ++i) {
    m_score.patches[i].silent = silent;
    m_score.patches[i].bus = bus;
    sounds = sounds || m_score.patches[i].sound;
  }
  m_score.patches[first].layers = int(m_score.patches.size() - first);
  m_score.patches[first].mode = key.mode;
  return m_places[{key.id, sound, tempo.value}] = sounds ? int(first) : -1;
}

/// Whether any of a key's sounds is another one than at the beat's own tempo.
bool PatchWriter::goesByTempo(const Key& key, const HitSound& sound, Bpm tempo) {
  for (const Key& layer : layersOf(key, sound)) {
    const Source* source = findSource(m_project, layer.sound.source);
    if (!source) continue;
    const auto here = m_orders.orderFor(*source, layer, tempo);
    const auto own = m_orders.orderFor(*source, layer, m_project.tempo);
    if (here.has_value() != own.has_value() || (here && here->name != own->name)) return true;
  }
  return false;
}

int PatchWriter::patchOf(Id id, const HitSound& sound, Bpm tempo) {
  const Place place{id, sound, tempo.value};
  if (const auto found = m_places.find(place); found != m_places.end()) return found->second;
  const Key* key = findKey(m_project, id);
  if (!key) return m_places[place] = -1;
  if (tempo == m_project.tempo || goesByTempo(*key, sound, tempo)) return add(*key, sound, tempo);
  return m_places[place] = patchOf(id, sound, m_project.tempo);
}

} // namespace tuvvo
