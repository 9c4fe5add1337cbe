#include "beat/read_break.h"

#include "beat/break_pattern.h"
#include "beat/grooves.h"
#include "model/edits.h"
#include "model/resolved_source.h"
#include "shape/shaped.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kBeforeOne = 0.1; ///< beats: so early a hit still belongs to the first downbeat

bool isClass(const Onset& onset, HitClass hit) {
  return std::find(onset.hits.begin(), onset.hits.end(), hit) != onset.hits.end();
}

/// Neither tones nor slices.
bool playsDrums(const Project& project, const Lane& lane) {
  return std::all_of(lane.hits.begin(), lane.hits.end(), [&](const Hit& hit) {
    const Key* key = findKey(project, hit.key);
    return hit.tune.value == 0 && key && key->sound.cut == 0 && !(key->gate && key->mono);
  });
}

const Onset* onsetAt(std::span<const Onset> onsets, Seconds at) {
  for (const auto& onset : onsets)
    if (std::abs((onset.at - at).value) < kSameHit.value) return &onset;
  return nullptr;
}

} // namespace

Result<BreakReading> readBreak(const Source& source) {
  const ResolvedSource resolved(source);
  const auto& grid = resolved.grid();
  const auto felt = FeltBeats::of(resolved);
  if (!grid || !felt)
    return Error{"This sound has no tempo to be read by", source.name,
                 "Say its tempo in the Crate, or choose a loop with drums."};
  BreakReading reading;
  reading.tempo = grid->tempo;
  const auto onsets = resolved.onsets();
  std::array<double, 4> hardest{};
  for (const auto& onset : onsets) {
    const double beat = felt->at(onset.at);
    if (beat < -kBeforeOne) continue;
    for (HitClass hit : onset.hits) {
      ReadHit read;
      read.at = onset.at;
      read.hit = hit;
      read.group = onset.group;
      read.beat = beat;
      read.velocity = velocityOfLevel(onset.levels[std::size_t(hit)]);
      read.sure = onset.sure[std::size_t(hit)] >= kSureHit;
      read.alone = onset.hits.size() == 1;
      hardest[std::size_t(hit)] = std::max(hardest[std::size_t(hit)], read.velocity);
      reading.hits.push_back(read);
    }
  }
  if (reading.hits.size() < 4)
    return Error{"There are too few clear hits to read", source.name,
                 "Choose a sound with drums, or one whose hits stand out more."};
  for (auto& hit : reading.hits)
    hit.velocity = std::clamp(hit.velocity / hardest[std::size_t(hit.hit)], 0.05, 1.0);
  const double bar = std::max(1, grid->meter);
  double bars = std::ceil((reading.hits.back().beat + kBeforeOne) / bar);
  if (source.heard && source.heard->loop) bars = std::max(bars, double(source.heard->loop->bars));
  reading.beats = bar * std::max(1.0, bars);
  return reading;
}

Project withHitMoved(Project project, Id source, Seconds at, HitClass from, HitClass to,
                     bool alikeToo) {
  return withHitsChanged(std::move(project), source, at, alikeToo,
                         [from, to](std::vector<HitClass>& hits) {
                           std::replace(hits.begin(), hits.end(), from, to);
                           std::sort(hits.begin(), hits.end());
                           hits.erase(std::unique(hits.begin(), hits.end()), hits.end());
                         });
}

int alikeOf(const Source& source, Seconds at, HitClass called) {
  const ResolvedSource resolved(source);
  const auto onsets = resolved.onsets();
  const Onset* chosen = onsetAt(onsets, at);
  if (!chosen) return 0;
  return int(std::count_if(onsets.begin(), onsets.end(), [&](const Onset& onset) {
    return &onset != chosen && onset.group == chosen->group && isClass(onset, called);
  }));
}

BreakKeys usualKeys(const Project& project) {
  const auto at = [&](Row row, int column) {
    const Key* key = keyAt(project, row, column, 0);
    return key ? key->id : Id(0);
  };
  BreakKeys keys{};
  keys[std::size_t(HitClass::Kick)] = at(Row::Floor, 0);
  keys[std::size_t(HitClass::Snare)] = at(Row::Body, 0);
  keys[std::size_t(HitClass::Hat)] = at(Row::Air, 0);
  keys[std::size_t(HitClass::Other)] = at(Row::Body, 2);
  return keys;
}

Project withBreakPlayed(Project project, Id id, const BreakReading& reading, const BreakKeys& keys,
                        Id into, Id* made) {
  if (made) *made = 0;
  const Source* source = findSource(project, id);
  if (!source) return project;
  Pattern pattern = breakPattern(project, *source, reading, [&](const ReadHit& hit) {
    return KeyHit{keys[std::size_t(hit.hit)], hit.velocity};
  });
  pattern.name = source->name + ", played";
  return withPatternLaid(std::move(project), std::move(pattern), into, made);
}

Result<Project> withDrumsFollowing(Project project, Id id, const Source& source) {
  auto groove = grooveOf(source);
  if (!groove) return groove.error();
  const PatternPtr pattern = findPattern(project, id);
  std::vector<Id> drums;
  if (pattern)
    for (const auto& lane : pattern->lanes)
      if (!lane.hits.empty() && playsDrums(project, lane)) drums.push_back(lane.part);
  if (drums.empty())
    return Error{"This pattern has no drums that could follow", pattern ? pattern->name : "",
                 "Set some hits first, or choose another pattern."};
  Id laid = 0;
  project = withGroove(std::move(project), *groove, &laid);
  return withPatternChanged(std::move(project), id, [&](Pattern& p) {
    for (auto& lane : p.lanes)
      if (std::find(drums.begin(), drums.end(), lane.part) != drums.end()) {
        lane.feel.groove = laid;
        lane.feel.grooveTiming = lane.feel.grooveLevel = 1;
      }
  });
}

} // namespace tuvvo
