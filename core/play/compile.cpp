#include "base/tempo_map.h"
#include "beat/feel.h"
#include "beat/pins.h"
#include "play/score.h"
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

/// Equal-power pan with the middle at unity, so that a centred key is what its source is.
std::pair<float, float> panned(Decibels level, double pan) {
  const double gain = gainOf(level), angle = (pan + 1) * M_PI / 4;
  return {float(gain * std::min(1.0, std::sqrt(2.0) * std::cos(angle))),
          float(gain * std::min(1.0, std::sqrt(2.0) * std::sin(angle)))};
}

/// A key's filters, standing still.
PatchFilters filtersOf(const Key& key) {
  PatchFilters filters;
  filters.low.corner = key.lowPass.value;
  filters.high.corner = key.highPass.value;
  filters.damping = std::sqrt(2.0) / gainOf(key.resonance);
  return filters;
}

/// What keys need made; a source's line of time is worked out once for every school.
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
      order.frame = {m_project.tempo, m_project.beatsPerBar, kEngineRate, order.recipe.material};
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
  if (const Cut* cut = findCut(source, key.sound.cut)) {
    patch.fadeIn = double(toFrames(cut->fadeIn, rate).value);
    patch.fadeOut = patch.loopEnd > 0 ? 0 : double(toFrames(cut->fadeOut, rate).value);
  }
  std::tie(patch.left, patch.right) = panned(key.level + key.own.level, key.pan);
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

Score scoreFrame(const Project& project, const CompileOptions& options) {
  Score score;
  score.framesPerBeat = TempoMap(project.tempo).framesPerBeat(kEngineRate);
  score.beatsPerBar = project.beatsPerBar;
  // For a stem the other parts play on at no level: they still choke what they choke.
  const auto levelOf = [&](Id part, Decibels level) {
    return options.onlyPart == 0 || options.onlyPart == part ? float(gainOf(level)) : 0.0f;
  };
  for (const auto& part : project.parts)
    score.strips.push_back({part.id, levelOf(part.id, part.level)});
  score.strips.push_back({0, 1.0f}); // keys that write on no part
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
  for (const auto& key : project.keys) {
    const std::size_t first = score.patches.size();
    addPatch(key);
    for (const auto& layer : key.layers) addPatch(keyOfLayer(key, layer));
    const bool silent = !audible(project, key, solo);
    for (std::size_t i = first; i < score.patches.size(); ++i) score.patches[i].silent = silent;
    score.patches[first].layers = int(score.patches.size() - first);
    score.patches[first].way = key.way;
  }
  score.audition = options.audition;
  score.monitor = options.monitor;
  return score;
}

bool anySound(const Score& score, int first) {
  for (int i = first; i < first + score.patches[std::size_t(first)].layers; ++i)
    if (score.patches[std::size_t(i)].sound) return true;
  return false;
}

/// Writes one pass of a pattern from a beat on; what would start at or after the limit stays out.
void addPattern(Score& score, const Project& project, const Pattern& pattern, Beats from,
                Beats until, const std::vector<Id>& resting) {
  const TempoMap tempo(project.tempo);
  for (const auto& lane : pattern.lanes) {
    if (std::find(resting.begin(), resting.end(), lane.part) != resting.end()) continue;
    for (const auto& pin : lane.pins) {
      if (from + pin.at >= until) continue;
      const int patch = score.patchOf(pin.key);
      if (patch < 0 || !anySound(score, patch)) continue;
      // One rounding of the whole place, so that every bar of a long song is as exact as the first.
      const Beats place = from + swung(pin.at, lane.swing, lane.swingPairs);
      ScoreEvent event;
      event.frame =
          (tempo.frameAt(place, kEngineRate) + toFrames(pin.lean + lane.lean, kEngineRate)).value;
      event.patch = patch;
      event.gain = gainOfVelocity(pin.velocity);
      event.tune = ratioOf(pin.tune);
      event.hold = pin.length.value > 0 ? tempo.frameAt(pin.length, kEngineRate).value : 0;
      event.from = float(pin.start);
      event.bright = float(pin.bright);
      const Patch& played = score.patches[std::size_t(patch)];
      if (played.lead > 0) { // it begins before its pin, and what there is no room for is left out
        event.frame =
            std::max<std::int64_t>(0, event.frame) - std::llround(played.lead / event.tune);
        event.skip = std::max<std::int64_t>(0, -event.frame);
      }
      if (event.hold == 0 && played.loopEnd > 0) // once through
        event.hold = std::int64_t(double(played.loopEnd) / (played.step * event.tune));
      score.events.push_back(event);
    }
  }
}

/// Which of its key's hits each event is, so that layers take turns the same way every time.
void countTurns(Score& score) {
  for (auto& event : score.events) event.turn = score.patches[std::size_t(event.patch)].turns++;
}

void finish(Score& score) {
  for (auto& event : score.events) event.frame = std::max<std::int64_t>(0, event.frame);
  std::stable_sort(score.events.begin(), score.events.end(),
                   [](const ScoreEvent& a, const ScoreEvent& b) { return a.frame < b.frame; });
  std::erase_if(score.events, [&](const ScoreEvent& e) { return e.frame >= score.length; });
  countTurns(score);
}

} // namespace

Monitor monitorThrough(const Project& project, Id id) {
  Monitor out;
  out.on = true;
  const Key* key = findKey(project, id);
  if (!key) return out;
  const Part* part = findPart(project, key->part);
  std::tie(out.left, out.right) = panned(key->level + (part ? part->level : Decibels(0)), key->pan);
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
  for (const auto& key : project.keys) {
    add(key);
    for (const auto& layer : key.layers) add(keyOfLayer(key, layer));
  }
  return out;
}

std::optional<BakeOrder> bakeOf(const Project& project, const Key& key) {
  const Source* source = findSource(project, key.sound.source);
  return source ? Orders(project).orderFor(*source, key) : std::nullopt;
}

Score compileSong(const Project& project, const CompileOptions& options) {
  Score score = scoreFrame(project, options);
  const Timeline timeline = timelineOf(project);
  for (const auto& placed : timeline.sections) {
    const PatternPtr pattern = findPattern(project, placed.pattern);
    const Section* section = findSection(project, placed.section);
    if (!pattern || !section) continue;
    const Beats length = lengthOf(*pattern, project.beatsPerBar),
                end = placed.start + placed.length;
    for (Beats at = placed.start; at < end; at += length)
      addPattern(score, project, *pattern, at, end, section->resting);
  }
  score.length = TempoMap(project.tempo).frameAt(timeline.length, kEngineRate).value;
  finish(score);
  return score;
}

Score compilePattern(const Project& project, Id id, const CompileOptions& options) {
  Score score = scoreFrame(project, options);
  score.loops = true;
  if (const PatternPtr pattern = findPattern(project, id)) {
    Beats length = lengthOf(*pattern, project.beatsPerBar);
    if (options.bars > 0)
      length = std::min(length, wholeBeats(std::int64_t(options.bars) * project.beatsPerBar));
    score.length = TempoMap(project.tempo).frameAt(length, kEngineRate).value;
    addPattern(score, project, *pattern, Beats(0), length, {});
    // A hit that leans out over either end belongs to the other one when the pattern goes round.
    for (auto& event : score.events) {
      event.early = event.frame < 0;
      if (event.frame < 0)
        event.frame = score.length - 1 - (-event.frame - 1) % score.length;
      else if (event.frame >= score.length)
        event.frame -= score.length;
    }
  }
  finish(score);
  return score;
}

void bringNear(const Score& score) {
  constexpr std::int64_t kMost = std::int64_t(16) << 20; // samples: 64 MB
  std::int64_t left = kMost;
  for (const Patch& patch : score.patches) {
    if (!patch.sound || left <= 0) continue;
    const auto count =
        std::min({patch.end - patch.start, left, std::int64_t(30 * patch.sound->rate().value)});
    if (count <= 0) continue;
    for (int c = 0; c < patch.sound->channels(); ++c, left -= count)
      soonRead(patch.sound->channel(c).subspan(std::size_t(patch.start), std::size_t(count)));
  }
}

} // namespace tuvvo
