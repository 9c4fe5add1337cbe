#include "base/convert.h"
#include "base/tempo_map.h"
#include "beat/hits.h"
#include "play/event_writer.h"
#include "shape/shaped.h"
#include "song/timeline.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <set>
#include <tuple>

namespace tuvvo {

namespace {

/// An envelope as voices need it: what is let go still takes a frame.
EnvelopeShape voiceShape(const Envelope& envelope) {
  EnvelopeShape shape = shapeOf(envelope, kEngineRate);
  shape.release.frames = std::max(1, shape.release.frames);
  return shape;
}

/// A key's filters, standing still.
PatchFilters filtersOf(const Key& key) {
  PatchFilters filters;
  filters.low.corner = key.lowPass.value;
  filters.high.corner = key.highPass.value;
  filters.damping = std::sqrt(2.0) / gainOf(key.resonance);
  return filters;
}

/// What keys need made; a source's line of time is worked out once for every method.
class Orders {
public:
  explicit Orders(const Project& project) : m_project(project) {}

  std::optional<BakeOrder> orderFor(const Source& source, const Key& key) {
    if (!source.sound) return std::nullopt;
    const bool treated = key.loop.on || isTreated(key);
    const Shape shape = shapeOf(source, key);
    if (!movesTime(shape) && !treated) return std::nullopt;
    const Stretch stretch = stretchOf(source, key);
    if (stretch.end <= stretch.start) return std::nullopt;
    Shaped& shaped = m_shaped[{source.id, shape.method}];
    if (!shaped.source) {
      auto copy = std::make_shared<Source>(source);
      copy->shape = shape;
      shaped.source = std::move(copy);
      shaped.line = shapedLine(*shaped.source, m_project.tempo);
    }
    auto recipe = recipeOf(*shaped.source, shaped.line, stretch, kEngineRate);
    if (!recipe) {
      if (!treated) return std::nullopt;
      recipe = plainRecipe(*shaped.source, stretch, kEngineRate);
    }
    BakeOrder order;
    order.sound = source.sound;
    order.recipe = std::move(*recipe);
    if (treated) {
      order.treatments = key.treatments;
      std::erase_if(order.treatments, [](const Treatment& t) { return !t.on; });
      order.frame = {m_project.tempo, quartersOf(m_project.meter), kEngineRate,
                     order.recipe.material};
      order.loop = key.loop.on ? key.loop : SliceLoop{};
    }
    order.setNames();
    return order;
  }

private:
  struct Shaped {
    SourcePtr source;
    TimeLine line;
  };
  const Project& m_project;
  std::map<std::pair<Id, FitMethod>, Shaped> m_shaped;
};

/// @param baked  what its order made, if it has one and it is there
Patch patchOf(const Source& source, const Key& key, const Baked& baked) {
  Patch patch;
  patch.key = key.id;
  if (!source.sound) return patch;
  patch.sound = baked ? baked.sound : source.sound;
  const Stretch stretch = stretchOf(source, key);
  patch.start = baked ? 0 : stretch.start.value;
  patch.end = baked ? baked.sound->frames().value : stretch.end.value;
  patch.loopStart = baked.loopStart;
  patch.loopEnd = baked.loopEnd;
  const Hertz rate = patch.sound->rate();
  patch.step =
      rate.value / kEngineRate.value * ratioOf(key.tune + toSemitones(key.fine) + key.own.tune);
  if (!baked) patch.step *= source.shape.pitch();
  const Cut* cut = findCut(source, key.sound.cut);
  const bool trimmed = key.trimStart.value > 0 || key.trimEnd.value > 0;
  if (cut || trimmed) { // what is cut off anywhere is faded against clicks
    const Cut fades = cut ? *cut : Cut{};
    patch.fadeIn = double(toFrames(fades.fadeIn, rate).value);
    patch.fadeOut = patch.loopEnd > 0 ? 0 : double(toFrames(fades.fadeOut, rate).value);
  }
  patch.gain = float(gainOf(key.level + key.own.level));
  patch.pan = float(key.pan);
  patch.envelope = voiceShape(key.envelope);
  const auto& moves = key.filterEnvelope;
  patch.filters = filtersOf(key);
  patch.filters.low.moves = moves.lowMoves;
  patch.filters.high.moves = moves.highMoves;
  patch.filters.shape = shapeOf(moves.shape, Hertz(kEngineRate.value / VoiceFilter::kStep));
  patch.gate = key.gate || patch.loopEnd > 0;
  patch.choke = key.choke;
  patch.delay = int(toFrames(key.own.delay, kEngineRate).value);
  patch.loudest = gainOfVelocity(key.own.upTo);
  patch.mono = key.mono;
  patch.legato = key.mono && key.legato;
  patch.glide = key.mono ? int(toFrames(key.glide, kEngineRate).value) : 0;
  return patch;
}

/// Keys of which a hit is played backwards.
std::set<Id> keysReversed(const Project& project) {
  std::set<Id> out;
  for (const auto& pattern : project.patterns)
    for (const auto& lane : pattern->lanes)
      for (const auto& hit : lane.hits)
        if (hit.reversed) out.insert(hit.key);
  return out;
}

/// A key as keys of one sound each: its own and its layers.
std::vector<Key> layersOf(const Key& key, bool reversed) {
  std::vector<Key> out{key};
  for (const auto& layer : key.layers) out.push_back(keyOfLayer(key, layer));
  if (reversed)
    for (auto& each : out) each.treatments.push_back(treatment(TreatmentKind::Reverse));
  return out;
}

Score scoreFrame(const Project& project, const CompileOptions& options) {
  Score score;
  score.framesPerBeat = TempoMap(project.tempo).framesPerBeat(kEngineRate);
  score.meters = {{0, Beats(0), project.meter}};
  // For a stem the other parts play on at no level: they still choke what they choke.
  const auto levelOf = [&](Id part, Decibels level) {
    return options.onlyPart == 0 || options.onlyPart == part ? float(gainOf(level)) : 0.0f;
  };
  int ducks = 0;
  for (const auto& part : project.parts) {
    Strip strip;
    strip.part = part.id;
    strip.gain = levelOf(part.id, part.level);
    if (part.duck.by != 0 && ducks++ < kMostDucks) {
      strip.duckBy = part.duck.by;
      strip.duckTo = float(gainOf(-part.duck.depth));
      strip.duckBack = float(double(toFrames(part.duck.back, kEngineRate).value) / 3);
    }
    score.strips.push_back(strip);
  }
  score.strips.push_back({}); // keys that write on no part
  const auto stripOf = [&](Id part) {
    for (std::size_t i = 0; i < score.strips.size(); ++i)
      if (score.strips[i].part == part) return int(i);
    return int(score.strips.size()) - 1;
  };
  Orders orders(project);
  const auto addPatch = [&](const Key& key) {
    const Source* source = findSource(project, key.sound.source);
    Baked baked;
    if (source && options.baked)
      if (const auto order = orders.orderFor(*source, key)) baked = options.baked(*order);
    Patch patch = source ? patchOf(*source, key, baked) : Patch{};
    patch.key = key.id;
    if (baked) patch.lead = leadBeats(key.treatments) * score.framesPerBeat / patch.step;
    patch.strip = stripOf(key.part);
    score.patches.push_back(std::move(patch));
  };
  const bool solo = anySolo(project);
  const auto addKey = [&](const Key& key, bool reversed) {
    const std::size_t first = score.patches.size();
    for (const Key& layer : layersOf(key, reversed)) addPatch(layer);
    const bool silent = !audible(project, key, solo);
    for (std::size_t i = first; i < score.patches.size(); ++i) score.patches[i].silent = silent;
    score.patches[first].layers = int(score.patches.size() - first);
    score.patches[first].way = key.way;
  };
  for (const auto& key : project.keys) addKey(key, false);
  const auto reversed = keysReversed(project);
  for (const auto& key : project.keys)
    if (reversed.contains(key.id)) addKey(key, true);
  score.audition = options.audition;
  score.monitor = options.monitor;
  return score;
}

} // namespace

Monitor monitorThrough(const Project& project, Id id) {
  Monitor out;
  out.on = true;
  const Key* key = findKey(project, id);
  if (!key) return out;
  const Part* part = findPart(project, key->part);
  std::tie(out.left, out.right) =
      panned(gainOf(key->level + (part ? part->level : Decibels(0))), key->pan);
  out.filters = filtersOf(*key);
  return out;
}

std::vector<BakeOrder> bakesOf(const Project& project) {
  std::vector<BakeOrder> out;
  std::set<std::string> names;
  Orders orders(project);
  const auto add = [&](const Key& key) {
    if (const Source* source = findSource(project, key.sound.source))
      if (auto order = orders.orderFor(*source, key); order && names.insert(order->name).second)
        out.push_back(std::move(*order));
  };
  const auto reversed = keysReversed(project);
  for (const auto& key : project.keys)
    for (const bool backwards : {false, true})
      if (!backwards || reversed.contains(key.id))
        for (const Key& layer : layersOf(key, backwards)) add(layer);
  return out;
}

std::optional<BakeOrder> bakeOf(const Project& project, const Key& key) {
  const Source* source = findSource(project, key.sound.source);
  return source ? Orders(project).orderFor(*source, key) : std::nullopt;
}

Score compileSong(const Project& project, const CompileOptions& options) {
  Score score = scoreFrame(project, options);
  const Timeline timeline = timelineOf(project);
  const TempoMap tempo(project.tempo);
  EventWriter writer(score, project);
  score.meters.clear();
  for (const auto& placed : timeline.sections) {
    const PatternPtr pattern = findPattern(project, placed.pattern);
    const Section* section = findSection(project, placed.section);
    if (!pattern || !section) continue;
    writer.add(*pattern, placed.start, placed.start + placed.length, section->resting);
    if (score.meters.empty() || score.meters.back().meter != placed.meter)
      score.meters.push_back(
          {tempo.frameAt(placed.start, kEngineRate).value, placed.start, placed.meter});
  }
  if (score.meters.empty()) score.meters.push_back({0, Beats(0), project.meter});
  score.length = tempo.frameAt(timeline.length, kEngineRate).value;
  writer.finish();
  return score;
}

Score compilePattern(const Project& project, Id id, const CompileOptions& options) {
  Score score = scoreFrame(project, options);
  score.loops = true;
  const PatternPtr pattern = findPattern(project, id);
  if (!pattern) return score;
  score.meters = {{0, Beats(0), pattern->meter}};
  Beats length = lengthOf(*pattern);
  if (options.bars > 0)
    length = std::min(length, barOf(pattern->meter) * options.bars);
  else
    length = loopLength(*pattern);
  score.length = TempoMap(project.tempo).frameAt(length, kEngineRate).value;
  EventWriter writer(score, project);
  writer.add(*pattern, Beats(0), length, {});
  writer.goRound();
  writer.finish();
  return score;
}

void bringNear(const Score& score) {
  constexpr std::int64_t kMost = std::int64_t(16) << 20; // samples: 64 MB
  std::int64_t left = kMost;
  for (const Patch& patch : score.patches) {
    if (!patch.sound || left <= 0) continue;
    const auto count = std::min(
        {patch.end - patch.start, left, toWhole<std::int64_t>(30 * patch.sound->rate().value)});
    if (count <= 0) continue;
    for (int c = 0; c < patch.sound->channels(); ++c, left -= count)
      soonRead(patch.sound->channel(c).subspan(std::size_t(patch.start), std::size_t(count)));
  }
}

} // namespace tuvvo
