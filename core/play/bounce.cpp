#include "play/bounce.h"

#include "base/convert.h"
#include "beat/hits.h"
#include "model/edits.h"
#include "play/print.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

std::optional<Recipe> recipeOf(const Project& project, const Key& key) {
  const Source* source = findSource(project, key.sound.source);
  if (!source || !source->sound) return std::nullopt;
  const Stretch stretch = stretchOf(*source, key.sound);
  if (stretch.end <= stretch.start) return std::nullopt;
  Recipe made{key, stretch.start, stretch.end, source->shape, {}, project.tempo, project.meter};
  for (const auto& layer : key.layers) {
    Recipe::Under under;
    if (const Source* from = findSource(project, layer.sound.source)) {
      const Stretch of = stretchOf(*from, layer.sound);
      under = {of.start, of.end, from->shape};
    }
    made.under.push_back(std::move(under));
  }
  return made;
}

Recipe treatedWhole(const Source& source, std::vector<Treatment> treatments) {
  Recipe made;
  made.as.sound = {source.id, 0};
  made.as.treatments = std::move(treatments);
  made.end = source.sound ? source.sound->frames() : Frames(0);
  if (const auto grid = gridOf(source)) {
    made.tempo = grid->tempo;
    made.meter = quarters(grid->meter);
  }
  return made;
}

namespace {

const Source* sourceIn(const std::vector<SourcePtr>& sources, Id id) {
  const auto found = std::find_if(sources.begin(), sources.end(),
                                  [&](const SourcePtr& source) { return source->id == id; });
  return found == sources.end() ? nullptr : found->get();
}

/// The stretch that a recipe plays of a source, as the source's one cut. One source may be played
/// by several layers, so each gets a copy of its own under another id.
void addPlayed(Project& p, const Source& from, SoundRef& ref, const Shape& shape,
               const Stretch& stretch) {
  auto source = std::make_shared<Source>(from);
  source->id = Id(p.sources.size() + 1);
  source->shape = shape;
  if (ref.cut != 0 && from.sound) {
    const Cut* known = findCut(from, ref.cut);
    Cut cut = known ? *known : Cut{};
    cut.id = ref.cut;
    const std::int64_t frames = from.sound->frames().value;
    cut.start.value = std::clamp<std::int64_t>(stretch.start.value, 0, frames - 1);
    cut.end.value = std::clamp<std::int64_t>(stretch.end.value, cut.start.value + 1, frames);
    source->cuts = {cut};
  }
  ref.source = source->id;
  p.sources.push_back(std::move(source));
}

} // namespace

Project beatOf(const std::vector<SourcePtr>& sources, const Recipe& made) {
  Project p;
  p.tempo = made.tempo;
  p.meter = made.meter;
  Key key = made.as;
  if (const Source* from = sourceIn(sources, key.sound.source))
    addPlayed(p, *from, key.sound, made.shape, {made.start, made.end});
  for (std::size_t i = 0; i < key.layers.size() && i < made.under.size(); ++i)
    if (const Source* from = sourceIn(sources, key.layers[i].sound.source))
      addPlayed(p, *from, key.layers[i].sound, made.under[i].shape,
                {made.under[i].start, made.under[i].end});
  key.choke = 0;
  key.muteSolo = {};
  p.keys.push_back(key);
  return p;
}

namespace {

/// What an error calls the recipe's sound.
std::string nameIn(const std::vector<SourcePtr>& sources, const Recipe& made) {
  const Source* from = sourceIn(sources, made.as.sound.source);
  return from ? from->name : "the sound it was made from";
}

Result<Score> scoreOf(const std::vector<SourcePtr>& sources, const Recipe& made, JobContext& job) {
  const auto missing = [&](const SoundRef& ref) {
    const Source* from = sourceIn(sources, ref.source);
    return !from || !from->sound;
  };
  bool any = missing(made.as.sound);
  for (const auto& layer : made.as.layers) any = any || missing(layer.sound);
  if (any)
    return Error{"Its sound is missing", nameIn(sources, made),
                 "Find the file again, then bounce."};
  const Project p = beatOf(sources, made);
  BakeCache bakeCache(1, {});
  auto score = bakedSong(p, {}, bakeCache, job);
  if (!score) return score.error();
  const Patch& patch = score->patches.front();
  if (!patch.sound || patch.end <= patch.start)
    return Error{"There is nothing to bounce", nameIn(sources, made), ""};
  return score;
}

/// The first patch struck once, for so many frames.
Result<SoundPtr> struckOnce(Score score, EngineFrames hold, double frames, const std::string& name,
                            JobContext& job) {
  if (frames > double(kMostTreatedFrames) * 6)
    return Error{"That would be more than an hour", name, "Bounce a shorter slice."};
  ScoreEvent event;
  event.hold = hold;
  score.events = {event};
  score.length = EngineFrames(std::max<std::int64_t>(1, toWhole<std::int64_t>(frames)));
  PrintOptions options;
  options.limiter = false;
  options.ring = Seconds(0);
  return print(score, options, job);
}

/// The fewest rounds that come out on a whole number of frames within a twentieth of a cent of
/// their pitch.
int roundsThatFit(double frames) {
  const double little = ratioOf(toSemitones(Cents(0.05))) - 1;
  int rounds = 1;
  while (rounds < 64 &&
         std::abs(rounds * frames - std::round(rounds * frames)) > little * rounds * frames)
    ++rounds;
  return rounds;
}

} // namespace

Result<SoundPtr> bounce(const std::vector<SourcePtr>& sources, const Recipe& made,
                        JobContext& job) {
  auto score = scoreOf(sources, made, job);
  if (!score) return score.error();
  const Patch& first = score->patches.front();
  EngineFrames hold;
  if (first.loopEnd.value > 0) // once through, and let go
    hold = EngineFrames(toWhole<std::int64_t>(double(first.loopEnd.value) / first.step));
  double frames = 0;
  for (const Patch& patch : score->patches) {
    const double length =
        patch.gate && hold.value > 0
            ? double(hold.value) + made.as.envelope.release.value / 1000 * kEngineRate.value
            : std::ceil(double((patch.end - patch.start).value) / patch.step);
    frames = std::max(frames, double(patch.delay.value) + length);
  }
  return struckOnce(std::move(score).value(), hold, frames, nameIn(sources, made), job);
}

Result<Baked> bounceRound(const std::vector<SourcePtr>& sources, Recipe made, JobContext& job) {
  made.as.envelope.decay = Milliseconds(0);
  made.as.envelope.sustain = 1;
  auto heard = scoreOf(sources, made, job);
  if (!heard) return heard.error();
  Score score = std::move(heard).value();
  Patch& patch = score.patches.front();
  if (patch.loopEnd <= patch.loopStart) {
    auto once = bounce(sources, made, job);
    if (!once) return once.error();
    return Baked{*once, 0, 0};
  }
  const double around = double((patch.loopEnd - patch.loopStart).value);
  const int rounds = roundsThatFit(around / patch.step);
  const double length = std::max(1.0, std::round(rounds * around / patch.step));
  patch.step = rounds * around / length; // no seam is left
  const auto start =
      toWhole<std::int64_t>(std::ceil(double((patch.loopEnd - patch.start).value) / patch.step));
  const std::int64_t end = start + toWhole<std::int64_t>(length);
  const double frames = double(end) + 0.1 * kEngineRate.value; // a print may fade at its end
  auto sound = struckOnce(std::move(score), EngineFrames(toWhole<std::int64_t>(frames) + 1), frames,
                          nameIn(sources, made), job);
  if (!sound) return sound.error();
  constexpr std::int64_t kAfter = 64; // behind the loop, for readers that interpolate
  Channels channels;
  for (int c = 0; c < (*sound)->channels(); ++c) {
    const auto samples = (*sound)->channel(c).first(std::size_t(end + kAfter));
    channels.emplace_back(samples.begin(), samples.end());
  }
  return Baked{std::make_shared<const Sound>(std::move(channels), kEngineRate), start, end};
}

Source sourceOf(const Source& from, const Recipe& made, SoundPtr sound, const std::string& name) {
  Source out;
  out.name = name;
  out.origin = "made from " + from.name;
  out.hash = sound->hash();
  out.sound = std::move(sound);
  out.provenance = from.provenance;
  out.recipe = std::make_shared<const Recipe>(made);
  return out;
}

Project withBounced(Project project, Id id, Source made, Id* added) {
  const Key* key = findKey(project, id);
  if (!key) return project;
  const Key before = *key;
  const std::string name = nameOf(project, before);
  Id source = 0;
  project = withSource(std::move(project), std::move(made), &source);
  if (added) *added = source;
  Key plain;
  plain.choke = before.choke;
  plain.gate = before.gate;
  plain.mono = before.mono;
  plain.glide = before.glide;
  plain.legato = before.legato;
  plain.muteSolo = before.muteSolo;
  project = withSettingsOf(std::move(project), plain, {id});
  project = withKeyChanged(std::move(project), id, [&](Key& changed) {
    changed.name = name;
    changed.sound = {source, 0};
    changed.own = {};
    changed.layers.clear();
  });
  const auto lead = toNearest<std::int64_t>(leadBeats(before.treatments) * double(kTicksPerBeat));
  if (lead <= 0) return project;
  const auto patterns = project.patterns; // each is changed by its name
  for (const auto& pattern : patterns) {
    project = withPatternChanged(std::move(project), pattern->id, [&](Pattern& changed) {
      for (auto& lane : changed.lanes) {
        const std::int64_t length = lengthOf(changed, lane).value;
        for (auto& hit : lane.hits)
          if (hit.key == id) hit.at.value = wrapped(hit.at.value - lead, length);
      }
    });
  }
  return project;
}

Project withRemade(Project project, Id id, const Recipe& made, SoundPtr sound,
                   const Analysis& heard) {
  const Hertz rate = sound->rate();
  const Frames end = sound->frames();
  project = withSourceChanged(std::move(project), id, [&](Source& source) {
    source.hash = sound->hash();
    source.sound = std::move(sound);
    source.heard = heard;
    source.recipe = std::make_shared<const Recipe>(made);
  });
  const Source* source = findSource(project, id);
  if (!source || source->cuts.empty()) return project;
  auto cuts = source->cuts;
  const Frames least = toFrames(Milliseconds(1), rate);
  std::erase_if(cuts, [&](const Cut& cut) { return cut.start + least >= end; });
  return withCuts(std::move(project), id, source->cutting, std::move(cuts));
}

namespace {

/// @param depth  a file may say that two sounds were made from each other
void addOrigins(const Project& project, Id id, double share, int depth, std::vector<Origin>& out) {
  const Source* source = findSource(project, id);
  const bool made = depth < 16 && source && source->recipe && source->sound;
  const std::size_t before = out.size();
  const auto follow = [&](Id from, Frames start, Frames end, Milliseconds trimmed) {
    const Source* found = findSource(project, from);
    if (!found || !found->sound || out.size() > 256) return;
    const double seconds =
        toSeconds(end - start, found->sound->rate()).value - toSeconds(trimmed).value;
    addOrigins(project, from,
               share * std::max(0.0, seconds) / std::max(1e-6, source->sound->duration().value),
               depth + 1, out);
  };
  if (made) {
    const Recipe& recipe = *source->recipe;
    const Key& as = recipe.as;
    follow(as.sound.source, recipe.start, recipe.end, as.trimStart + as.trimEnd);
    for (std::size_t i = 0; i < as.layers.size() && i < recipe.under.size(); ++i)
      follow(as.layers[i].sound.source, recipe.under[i].start, recipe.under[i].end,
             Milliseconds(0));
  }
  if (out.size() == before) out.push_back({id, share});
}

} // namespace

std::vector<int> piecesOf(const Project& project, Key key, std::size_t treatment) {
  if (treatment >= key.treatments.size()) return {};
  key.treatments[treatment].on = true; // shown as it would be
  const auto order = bakeOf(project, key);
  if (!order) return {};
  auto frames = std::size_t(framesOf(order->recipe).value);
  for (std::size_t i = 0; i < treatment; ++i)
    frames = framesAfter(frames, key.treatments[i], order->frame);
  const auto* chop = key.treatments[treatment].as<treat::Chop>();
  return chop ? chopOrder(*chop, frames, order->frame) : std::vector<int>();
}

std::vector<Origin> originsOf(const Project& project, Id id) {
  std::vector<Origin> out;
  addOrigins(project, id, 1, 0, out);
  return out;
}

} // namespace tuvvo
