#include "beat/start_levels.h"

#include "model/edits.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <map>

namespace tuvvo {

namespace {

constexpr double kTogether = 0.025; ///< s
constexpr double kRinging = 0.5;    ///< share of its peak that counts
constexpr Decibels kLeast{-30}, kMost{6};
constexpr double kSilent = -std::numeric_limits<double>::infinity();

bool within(const std::vector<Id>& ids, Id id) {
  return std::find(ids.begin(), ids.end(), id) != ids.end();
}

/// The loudest attack of what a part plays in a pattern, its bus left out.
double loudestOf(const Project& project, const Lane& lane, LoudnessCache& loudness) {
  std::map<Id, double> hardest;
  for (const auto& hit : lane.hits) hardest[hit.key] = std::max(hardest[hit.key], hit.velocity);
  double most = kSilent;
  for (const auto& [key, velocity] : hardest)
    for (const auto& level : levelsOf(project, {key}, LevelBy::Attack, loudness))
      most = std::max(most, level.lufs + decibelsOf(double(gainOfVelocity(velocity))).value);
  return most;
}

/// A hit as it adds to the master.
struct Struck {
  double at = 0, end = 0; ///< seconds
  double peak = 0;        ///< of its samples, at the master
};

std::vector<Struck> struckIn(const Project& project, const Pattern& pattern,
                             LoudnessCache& loudness) {
  std::vector<Struck> all;
  const double beat = 60 / project.tempo.value;
  for (const auto& lane : pattern.lanes) {
    const Part* part = findPart(project, lane.part);
    if (!part || part->muted) continue;
    for (const auto& hit : lane.hits) {
      const Key* key = findKey(project, hit.key);
      const Source* source = key ? findSource(project, key->sound.source) : nullptr;
      const auto levels = levelsOf(project, {hit.key}, LevelBy::Attack, loudness);
      if (!source || levels.empty()) continue;
      const Stretch stretch = stretchOf(*source, *key);
      const double at = inBeats(hit.at) * beat,
                   rings = toSeconds(stretch.end - stretch.start, source->sound->rate()).value;
      all.push_back({at, at + rings,
                     gainOf(Decibels(levels[0].peak + part->bus.level.value)) *
                         double(gainOfVelocity(hit.velocity))});
    }
  }
  std::sort(all.begin(), all.end(), [](const Struck& a, const Struck& b) { return a.at < b.at; });
  return all;
}

} // namespace

double startLoudness(const Project& project, const Part& part) {
  switch (part.role) {
  case Row::Cuts:
    return -3;
  case Row::Air:
    return -9;
  case Row::Body:
    return -1;
  case Row::Floor:
    break;
  }
  const bool held = std::any_of(project.keys.begin(), project.keys.end(),
                                [&](const Key& key) { return key.part == part.id && key.gate; });
  return held ? -3 : 0;
}

Decibels likelyPeak(const Project& project, const Pattern& pattern, LoudnessCache& loudness) {
  const auto all = struckIn(project, pattern, loudness);
  std::vector<const Struck*> ringing; // that began earlier
  double most = 0;
  for (std::size_t i = 0; i < all.size(); ++i) {
    std::erase_if(ringing, [&](const Struck* each) { return each->end <= all[i].at; });
    double sum = 0, power = 0;
    const auto add = [&](double share) {
      sum += share;
      power += share * share;
    };
    for (const Struck* each : ringing)
      add(each->at < all[i].at ? each->peak * kRinging : each->peak);
    for (std::size_t j = i; j < all.size() && all[j].at <= all[i].at + kTogether; ++j)
      add(all[j].peak);
    most = std::max(most, std::sqrt(sum * std::sqrt(power)));
    ringing.push_back(&all[i]);
  }
  return Decibels(most > 0 ? decibelsOf(most).value : kSilent);
}

std::vector<Id> freshParts(const Project& project) {
  const auto played = [&](Id part) {
    return std::any_of(project.patterns.begin(), project.patterns.end(), [&](const auto& pattern) {
      const Lane* lane = findLane(*pattern, part);
      return lane && !lane->hits.empty();
    });
  };
  std::vector<Id> parts;
  for (const auto& part : project.parts)
    if (part.bus.level.value == 0 && !played(part.id)) parts.push_back(part.id);
  return parts;
}

Project withStartLevels(Project project, const std::vector<Id>& parts, Id id, Among among,
                        LoudnessCache& loudness) {
  const PatternPtr pattern = findPattern(project, id);
  if (!pattern) return project;
  // What a kick would have, were it one of the parts that stay.
  double kick = kSilent;
  std::vector<std::pair<Id, double>> set; // and where it would be at 0 dB
  for (const auto& lane : pattern->lanes) {
    const Part* part = findPart(project, lane.part);
    const double own = part ? loudestOf(project, lane, loudness) : kSilent;
    if (!std::isfinite(own)) continue;
    const double asKick = own - startLoudness(project, *part);
    if (within(parts, part->id))
      set.emplace_back(part->id, asKick);
    else if (!part->muted)
      kick = std::max(kick, asKick + part->bus.level.value);
  }
  if (set.empty()) return project;
  if (among == Among::AsTheyAre) { // all move together, by the one that stands out most
    const auto first = std::max_element(
        set.begin(), set.end(), [](const auto& a, const auto& b) { return a.second < b.second; });
    const double most = first->second;
    for (auto& each : set) each.second = most;
  }
  const bool alone = !std::isfinite(kick);
  const auto levelled = [&](double as) {
    Project next = project;
    for (const auto& [part, own] : set)
      next = withPartChanged(std::move(next), part, [&, at = as - own](Part& changed) {
        changed.bus.level = Decibels(std::clamp(at, kLeast.value, kMost.value));
      });
    return next;
  };
  if (!alone) return levelled(kick);
  const double start = -20; // LUFS: anywhere near; it is moved to its peak
  const double peak = likelyPeak(levelled(start), *pattern, loudness).value;
  return std::isfinite(peak) ? levelled(start + kStartPeak.value - peak) : project;
}

} // namespace tuvvo
