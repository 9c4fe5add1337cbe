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

namespace tuvvo {

namespace {

/// The factor a frame that falls to one thousandth in the given time.
float fallFactor(Milliseconds time) {
  const double frames = std::max(1.0, time.value / 1000 * kEngineRate.value);
  return float(std::exp(std::log(0.001) / frames));
}

/// Recipes of a project's keys; a source's line is worked out once.
class Recipes {
public:
  explicit Recipes(const Project& project) : m_project(project) {}

  std::optional<BakeOrder> orderFor(const Source& source, const Stretch& stretch) {
    if (!source.sound || !movesTime(source.shape)) return std::nullopt;
    auto line = m_lines.find(source.id);
    if (line == m_lines.end())
      line = m_lines.emplace(source.id, shapedLine(source, m_project.tempo)).first;
    auto recipe = recipeOf(source, line->second, stretch, kEngineRate);
    if (!recipe) return std::nullopt;
    std::string name = recipe->nameOver(source.sound->hash());
    return BakeOrder{source.sound, std::move(*recipe), std::move(name)};
  }

private:
  const Project& m_project;
  std::map<Id, TimeLine> m_lines;
};

/// @param baked  what its recipe made, if it has one and it is there
Patch patchOf(const Source& source, const Key& key, const SoundPtr& baked) {
  Patch patch;
  patch.key = key.id;
  if (!source.sound) return patch;
  patch.sound = baked ? baked : source.sound;
  const Stretch stretch = stretchOf(source, key.sound);
  patch.start = baked ? 0 : stretch.start.value;
  patch.end = baked ? baked->frames().value : stretch.end.value;
  const Hertz rate = patch.sound->rate();
  patch.step = rate.value / kEngineRate.value * ratioOf(key.tune + toSemitones(key.fine));
  if (!baked) patch.step *= source.shape.pitch();
  if (const Cut* cut = findCut(source, key.sound.cut)) {
    patch.fadeIn = double(toFrames(cut->fadeIn, rate).value);
    patch.fadeOut = double(toFrames(cut->fadeOut, rate).value);
  }
  // Equal-power pan with the middle at unity, so that a centred key is what its source is.
  const double level = gainOf(key.level), angle = (key.pan + 1) * M_PI / 4;
  patch.left = float(level * std::min(1.0, std::sqrt(2.0) * std::cos(angle)));
  patch.right = float(level * std::min(1.0, std::sqrt(2.0) * std::sin(angle)));
  patch.attack = int(toFrames(key.envelope.attack, kEngineRate).value);
  patch.decay = fallFactor(key.envelope.decay);
  patch.sustain = float(key.envelope.sustain);
  patch.release = fallFactor(key.envelope.release);
  patch.gate = key.gate;
  patch.choke = key.choke;
  return patch;
}

Score scoreFrame(const Project& project, const CompileOptions& options) {
  Score score;
  score.framesPerBeat = TempoMap(project.tempo).framesPerBeat(kEngineRate);
  score.beatsPerBar = project.beatsPerBar;
  const bool anySolo =
      std::any_of(project.parts.begin(), project.parts.end(), [](const Part& p) { return p.solo; });
  for (const auto& part : project.parts) {
    const bool silent = part.muted || (anySolo && !part.solo) ||
                        (options.onlyPart != 0 && options.onlyPart != part.id);
    score.strips.push_back({part.id, silent ? 0.0f : float(gainOf(part.level))});
  }
  score.strips.push_back({0, 1.0f}); // keys that write on no part
  const auto stripOf = [&](Id part) {
    for (std::size_t i = 0; i < score.strips.size(); ++i)
      if (score.strips[i].part == part) return int(i);
    return int(score.strips.size()) - 1;
  };
  Recipes recipes(project);
  for (const auto& key : project.keys) {
    const Source* source = findSource(project, key.sound.source);
    SoundPtr baked;
    if (source && options.baked)
      if (const auto order = recipes.orderFor(*source, stretchOf(*source, key.sound)))
        baked = options.baked(order->name);
    Patch patch = source ? patchOf(*source, key, baked) : Patch{};
    patch.key = key.id;
    patch.strip = stripOf(key.part);
    score.patches.push_back(std::move(patch));
  }
  score.audition = options.audition;
  return score;
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
      if (patch < 0 || !score.patches[std::size_t(patch)].sound) continue;
      // One rounding of the whole place, so that every bar of a long song is as exact as the first.
      const Beats place = from + swung(pin.at, lane.swing, lane.swingPairs);
      ScoreEvent event;
      event.frame =
          (tempo.frameAt(place, kEngineRate) + toFrames(pin.lean + lane.lean, kEngineRate)).value;
      event.patch = patch;
      event.gain = gainOfVelocity(pin.velocity);
      event.tune = ratioOf(pin.tune);
      event.hold = pin.length.value > 0 ? tempo.frameAt(pin.length, kEngineRate).value : 0;
      score.events.push_back(event);
    }
  }
}

void finish(Score& score) {
  for (auto& event : score.events) event.frame = std::max<std::int64_t>(0, event.frame);
  std::stable_sort(score.events.begin(), score.events.end(),
                   [](const ScoreEvent& a, const ScoreEvent& b) { return a.frame < b.frame; });
  std::erase_if(score.events, [&](const ScoreEvent& e) { return e.frame >= score.length; });
}

} // namespace

std::vector<BakeOrder> bakesOf(const Project& project) {
  std::vector<BakeOrder> out;
  std::set<std::string> names;
  Recipes recipes(project);
  for (const auto& key : project.keys)
    if (const Source* source = findSource(project, key.sound.source))
      if (auto order = recipes.orderFor(*source, stretchOf(*source, key.sound));
          order && names.insert(order->name).second)
        out.push_back(std::move(*order));
  return out;
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
    const Beats length = lengthOf(*pattern, project.beatsPerBar);
    score.length = TempoMap(project.tempo).frameAt(length, kEngineRate).value;
    addPattern(score, project, *pattern, Beats(0), length, {});
    // A hit that leans out over either end belongs to the other one when the pattern goes round.
    for (auto& event : score.events) {
      event.early = event.frame < 0;
      if (event.frame < 0)
        event.frame += score.length;
      else if (event.frame >= score.length)
        event.frame -= score.length;
    }
  }
  finish(score);
  return score;
}

} // namespace tuvvo
