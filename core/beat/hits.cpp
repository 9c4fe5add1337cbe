#include "beat/hits.h"

#include "model/edits.h"

#include <algorithm>
#include <numeric>
#include <tuple>

namespace tuvvo {

namespace {

/// Enough to tell most hits apart; the rest is left to comparing them.
bool before(const Hit& a, const Hit& b) {
  return std::tie(a.at, a.key, a.microTiming, a.tune, a.velocity) <
         std::tie(b.at, b.key, b.microTiming, b.tune, b.velocity);
}

} // namespace

HitSet::HitSet(std::vector<Hit> hits) : m_hits(std::move(hits)) {
  std::sort(m_hits.begin(), m_hits.end(), before);
}

bool HitSet::contains(const Hit& hit) const {
  const auto [first, last] = std::equal_range(m_hits.begin(), m_hits.end(), hit, before);
  return std::find(first, last, hit) != last;
}

Beats lengthOf(const Pattern& pattern) { return barOf(pattern.meter) * pattern.bars; }

Beats lengthOf(const Pattern& pattern, const Lane& lane) {
  return lane.length.value > 0 ? lane.length : lengthOf(pattern);
}

Beats laneLength(const Pattern& pattern, Id part) {
  const Lane* lane = findLane(pattern, part);
  return lane ? lengthOf(pattern, *lane) : lengthOf(pattern);
}

std::optional<Beats> meetingOf(const Pattern& pattern) {
  std::int64_t all = lengthOf(pattern).value;
  for (const auto& lane : pattern.lanes) {
    if (lane.hits.empty()) continue;
    const std::int64_t length = lengthOf(pattern, lane).value,
                       times = length / std::gcd(all, length);
    if (all > kMostMeeting.value / times) return std::nullopt;
    all *= times;
  }
  return Beats(all);
}

Pattern withHit(Pattern pattern, Id part, const Hit& hit) {
  if (hit.at.value < 0 || hit.at >= laneLength(pattern, part)) return pattern;
  Lane& lane = laneOf(pattern, part);
  const auto [first, last] =
      std::equal_range(lane.hits.begin(), lane.hits.end(), hit,
                       [](const Hit& a, const Hit& b) { return a.at < b.at; });
  const auto same = std::find_if(
      first, last, [&](const Hit& p) { return p.key == hit.key && p.tune == hit.tune; });
  if (same != last)
    *same = hit;
  else
    lane.hits.insert(last, hit);
  return pattern;
}

Lane quantised(const Project& project, Meter meter, Lane lane, int perBeat, double strength) {
  const ResolvedTiming timed(project, meter, lane);
  strength = std::clamp(strength, 0.0, 1.0);
  for (auto& hit : lane.hits) {
    // What humanises a hit belongs to the feel and is not pulled away.
    const double played = timed.placeOf(hit.at) + timed.ticksOf(hit.microTiming);
    const Beats line = timed.nearestLine(played, perBeat);
    hit.microTiming = timed.msOf((played - timed.placeOf(line)) * (1 - strength));
    hit.at = line;
  }
  sortHits(lane);
  return lane;
}

Pattern withBars(Pattern pattern, int bars) {
  bars = std::clamp(bars, 1, kMostBars);
  const Beats old = lengthOf(pattern);
  const bool doubles = bars == pattern.bars * 2;
  pattern.bars = bars;
  const Beats length = lengthOf(pattern);
  for (auto& lane : pattern.lanes) {
    if (lane.length.value > 0) continue;
    if (doubles) {
      const auto before = lane.hits;
      for (Hit hit : before) {
        hit.at += old;
        lane.hits.push_back(hit);
      }
    }
    std::erase_if(lane.hits, [&](const Hit& hit) { return hit.at >= length; });
  }
  if (doubles) {
    const auto before = pattern.chords;
    for (const auto& mark : before) pattern.chords.push_back({mark.at + old, mark.name});
  }
  std::erase_if(pattern.chords, [&](const ChordMark& mark) { return mark.at >= length; });
  return pattern;
}

} // namespace tuvvo
