#include "play/bounce.h"

#include "beat/pins.h"
#include "model/edits.h"
#include "play/print.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

std::optional<Made> madeOf(const Project& project, const Key& key) {
  const Source* source = findSource(project, key.sound.source);
  if (!source || !source->sound) return std::nullopt;
  const Stretch stretch = stretchOf(*source, key.sound);
  if (stretch.end <= stretch.start) return std::nullopt;
  return Made{key, stretch.start, stretch.end, source->shape, project.tempo, project.beatsPerBar};
}

Made treatedWhole(const Source& source, std::vector<Treatment> treatments) {
  Made made;
  made.as.sound = {source.id, 0};
  made.as.treatments = std::move(treatments);
  made.end = source.sound ? source.sound->frames() : Frames(0);
  if (const auto grid = gridOf(source)) {
    made.tempo = grid->tempo;
    made.beatsPerBar = grid->meter;
  }
  return made;
}

Project beatOf(const Source& from, const Made& made) {
  Project p;
  p.tempo = made.tempo;
  p.beatsPerBar = std::clamp(made.beatsPerBar, 2, 7);
  auto source = std::make_shared<Source>(from);
  source->shape = made.shape;
  Key key = made.as;
  if (made.as.sound.cut != 0 && from.sound) {
    const Cut* known = findCut(from, made.as.sound.cut);
    Cut cut = known ? *known : Cut{};
    cut.id = made.as.sound.cut;
    const std::int64_t frames = from.sound->frames().value;
    cut.start.value = std::clamp<std::int64_t>(made.start.value, 0, frames - 1);
    cut.end.value = std::clamp<std::int64_t>(made.end.value, cut.start.value + 1, frames);
    source->cuts = {cut};
  }
  p.sources.push_back(source);
  key.sound.source = source->id;
  key.choke = 0;
  p.keys.push_back(key);
  return p;
}

namespace {

Result<Score> scoreOf(const Source& from, const Made& made, JobContext& job) {
  if (!from.sound)
    return Error{"Its sound is missing", from.name, "Find the file again, then bounce."};
  const Project p = beatOf(from, made);
  Bakery bakery(1, {});
  auto score = bakedSong(p, {}, bakery, job);
  if (!score) return score.error();
  const Patch& patch = score->patches.front();
  if (!patch.sound || patch.end <= patch.start)
    return Error{"There is nothing to bounce", from.name, ""};
  return score;
}

/// The first patch struck once, for so many frames.
Result<SoundPtr> struckOnce(Score score, std::int64_t hold, double frames, const std::string& name,
                            JobContext& job) {
  if (frames > double(kMostTreatedFrames) * 6)
    return Error{"That would be more than an hour", name, "Bounce a shorter slice."};
  ScoreEvent event;
  event.hold = hold;
  score.events = {event};
  score.length = std::max<std::int64_t>(1, std::int64_t(frames));
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

Result<SoundPtr> bounce(const Source& from, const Made& made, JobContext& job) {
  auto score = scoreOf(from, made, job);
  if (!score) return score.error();
  const Patch& patch = score->patches.front();
  double frames = std::ceil(double(patch.end - patch.start) / patch.step);
  std::int64_t hold = 0;
  if (patch.loopEnd > 0) { // once through, and let go
    hold = std::int64_t(double(patch.loopEnd) / patch.step);
    frames = double(hold) + made.as.envelope.release.value / 1000 * kEngineRate.value;
  }
  return struckOnce(std::move(score).value(), hold, frames, from.name, job);
}

Result<Baked> bounceRound(const Source& from, Made made, JobContext& job) {
  made.as.envelope.decay = Milliseconds(0);
  made.as.envelope.sustain = 1;
  auto heard = scoreOf(from, made, job);
  if (!heard) return heard.error();
  Score score = std::move(heard).value();
  Patch& patch = score.patches.front();
  if (patch.loopEnd <= patch.loopStart) {
    auto once = bounce(from, made, job);
    if (!once) return once.error();
    return Baked{*once, 0, 0};
  }
  const double around = double(patch.loopEnd - patch.loopStart);
  const int rounds = roundsThatFit(around / patch.step);
  const double length = std::max(1.0, std::round(rounds * around / patch.step));
  patch.step = rounds * around / length; // no seam is left
  const auto start = std::int64_t(std::ceil(double(patch.loopEnd - patch.start) / patch.step));
  const std::int64_t end = start + std::int64_t(length);
  const double frames = double(end) + 0.1 * kEngineRate.value; // a print may fade at its end
  auto sound = struckOnce(std::move(score), std::int64_t(frames) + 1, frames, from.name, job);
  if (!sound) return sound.error();
  constexpr std::int64_t kAfter = 64; // behind the loop, for readers that interpolate
  Channels channels;
  for (int c = 0; c < (*sound)->channels(); ++c) {
    const auto samples = (*sound)->channel(c).first(std::size_t(end + kAfter));
    channels.emplace_back(samples.begin(), samples.end());
  }
  return Baked{std::make_shared<const Sound>(std::move(channels), kEngineRate), start, end};
}

Source sourceOf(const Source& from, const Made& made, SoundPtr sound, const std::string& name) {
  Source out;
  out.name = name;
  out.origin = "made from " + from.name;
  out.hash = sound->hash();
  out.sound = std::move(sound);
  out.papers = from.papers;
  out.made = std::make_shared<const Made>(made);
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
  project = withSettingsOf(std::move(project), plain, {id});
  project = withKeyChanged(std::move(project), id, [&](Key& changed) {
    changed.name = name;
    changed.sound = {source, 0};
  });
  const auto lead =
      std::int64_t(std::llround(leadBeats(before.treatments) * double(kTicksPerBeat)));
  if (lead <= 0) return project;
  const auto patterns = project.patterns; // each is changed by its name
  for (const auto& pattern : patterns) {
    const std::int64_t length = lengthOf(*pattern, project.beatsPerBar).value;
    project = withPatternChanged(std::move(project), pattern->id, [&](Pattern& changed) {
      for (auto& lane : changed.lanes)
        for (auto& pin : lane.pins)
          if (pin.key == id) pin.at.value = ((pin.at.value - lead) % length + length) % length;
    });
  }
  return project;
}

Project withRemade(Project project, Id id, const Made& made, SoundPtr sound,
                   const Listening& heard) {
  const Hertz rate = sound->rate();
  const Frames end = sound->frames();
  project = withSourceChanged(std::move(project), id, [&](Source& source) {
    source.hash = sound->hash();
    source.sound = std::move(sound);
    source.heard = heard;
    source.made = std::make_shared<const Made>(made);
  });
  const Source* source = findSource(project, id);
  if (!source || source->cuts.empty()) return project;
  auto cuts = source->cuts;
  const Frames least = toFrames(Milliseconds(1), rate);
  std::erase_if(cuts, [&](const Cut& cut) { return cut.start + least >= end; });
  return withCuts(std::move(project), id, source->cutting, std::move(cuts));
}

Origin originOf(const Project& project, Id id) {
  Origin origin{id, 1};
  for (int depth = 0; depth < 64; ++depth) { // a file may say that two were made from each other
    const Source* source = findSource(project, origin.source);
    if (!source || !source->made || !source->sound) return origin;
    const Source* from = findSource(project, source->made->as.sound.source);
    if (!from || !from->sound) return origin;
    const Key& as = source->made->as;
    const double seconds =
        toSeconds(source->made->end - source->made->start, from->sound->rate()).value -
        toSeconds(as.trimStart + as.trimEnd).value;
    origin.share *= std::max(0.0, seconds) / std::max(1e-6, source->sound->duration().value);
    origin.source = from->id;
  }
  return origin;
}

} // namespace tuvvo
