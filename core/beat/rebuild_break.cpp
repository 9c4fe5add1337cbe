// A break rebuilt from the cleanest of its own hits.
#include "beat/break_pattern.h"
#include "model/edits.h"
#include "model/resolved_source.h"

#include <algorithm>
#include <cmath>
#include <map>

namespace tuvvo {

namespace {

constexpr std::size_t kOtherDrums = 4; ///< of what has no class

// What makes a hit a good exemplar, in decibels (common practice, no source).
constexpr double kAloneDb = 12, kRoomDbASecond = 24, kMostRoomDb = 6, kStillDbASecond = 12,
                 kMostStillDb = 4;

/// Classes, and the commonest groups of what has none, as (class, group or −1). What has no class
/// and is hardly heard beside another drum is left to that one.
std::vector<std::pair<HitClass, int>> drumsOf(const BreakReading& reading) {
  std::vector<std::pair<HitClass, int>> drums;
  for (HitClass hit : {HitClass::Kick, HitClass::Snare, HitClass::Hat}) drums.emplace_back(hit, -1);
  std::map<int, int> counts;
  for (const auto& hit : reading.hits)
    if (hit.hit == HitClass::Other && (hit.alone || hit.sure)) ++counts[hit.group];
  std::vector<std::pair<int, int>> byCount; // (−count, group): the commonest first
  for (const auto& [group, count] : counts) byCount.emplace_back(-count, group);
  std::sort(byCount.begin(), byCount.end());
  for (std::size_t i = 0; i < std::min(kOtherDrums, byCount.size()); ++i)
    drums.emplace_back(HitClass::Other, byCount[i].second);
  return drums;
}

std::string drumName(const Exemplar& drum, std::size_t others) {
  if (drum.hit != HitClass::Other) return std::string(nameOf(drum.hit));
  return others == 0 ? "other" : "other " + std::to_string(others + 1);
}

} // namespace

std::vector<Exemplar> exemplarsOf(const Source& source, const BreakReading& reading) {
  std::vector<Exemplar> out;
  if (!source.sound) return out;
  const Hertz rate = source.sound->rate();
  const Frames end = source.sound->frames();
  const ResolvedSource resolved(source);
  const auto onsets = resolved.onsets();
  const double endS = toSeconds(end, rate).value;
  // Where the next hit begins, whatever it is, and how long the one before has rung.
  std::map<double, std::pair<const Onset*, double>>
      at; // by Onset::at: it, and its stillness before
  for (std::size_t i = 0; i < onsets.size(); ++i)
    at[onsets[i].at.value] = {&onsets[i],
                              i > 0 ? onsets[i].cut.value - onsets[i - 1].cut.value : 1.0};
  const auto nextAfter = [&](const Onset& onset) {
    const auto next = at.upper_bound(onset.at.value);
    return next == at.end() ? endS : next->second.first->cut.value;
  };
  for (const auto& [hit, group] : drumsOf(reading)) {
    const ReadHit* best = nullptr;
    double most = -1e9;
    for (const auto& read : reading.hits) {
      if (read.hit != hit || (group >= 0 && read.group != group)) continue;
      const auto found = at.find(read.at.value);
      if (found == at.end()) continue; // read from another hearing
      const auto& [onset, before] = found->second;
      const double room = nextAfter(*onset) - onset->cut.value;
      const double score = (read.alone ? kAloneDb : 0) + onset->level.value +
                           std::min(kMostRoomDb, kRoomDbASecond * room) +
                           std::min(kMostStillDb, kStillDbASecond * before);
      if (score <= most) continue;
      most = score;
      best = &read;
    }
    if (!best) continue;
    const Onset& onset = *at.at(best->at.value).first;
    const Exemplar found{hit, group, toFrames(onset.cut, rate),
                         std::min(end, toFrames(Seconds(nextAfter(onset)), rate)), best->velocity};
    if (found.end > found.start) out.push_back(found);
  }
  return out;
}

Project withBreakRebuilt(Project project, Id id, const BreakReading& reading, Id into, Id* made) {
  if (made) *made = 0;
  const Source* source = findSource(project, id);
  if (!source || !source->sound) return project;
  const std::string name = source->name;
  const Hertz rate = source->sound->rate();
  const Frames frames = source->sound->frames();
  const auto drums = exemplarsOf(*source, reading);
  std::vector<Id> keys;
  std::size_t others = 0;
  for (const auto& drum : drums) {
    const Row row = drum.hit == HitClass::Kick  ? Row::Floor
                    : drum.hit == HitClass::Hat ? Row::Air
                                                : Row::Body;
    const std::string keyName = drumName(drum, others) + ", " + name;
    others += drum.hit == HitClass::Other;
    Id key = 0;
    for (const auto& known : project.keys)
      if (known.name == keyName && known.sound == SoundRef{id, 0}) key = known.id;
    if (key == 0) project = withSoundOnDeck(std::move(project), row, {id, 0}, keyName, &key);
    project = withKeyChanged(std::move(project), key, [&](Key& k) {
      k.trimStart = toMilliseconds(toSeconds(drum.start, rate));
      k.trimEnd = toMilliseconds(toSeconds(frames - drum.end, rate));
      k.mono = true; // one drum: struck again, it begins again
      k.glide = Milliseconds(0);
      // As loud as it was where it comes from, when it is struck as hard as there.
      k.level = decibelsOf(1 / double(gainOfVelocity(drum.velocity)));
    });
    keys.push_back(key);
  }
  Pattern pattern = breakPattern(project, *source, reading, [&](const ReadHit& hit) {
    for (std::size_t i = 0; i < drums.size(); ++i)
      if (drums[i].hit == hit.hit && (drums[i].group < 0 || drums[i].group == hit.group))
        return KeyHit{keys[i], hit.velocity};
    return KeyHit{};
  });
  pattern.name = name + ", rebuilt";
  return withPatternLaid(std::move(project), std::move(pattern), into, made);
}

} // namespace tuvvo
