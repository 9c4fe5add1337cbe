#include "beat/vary.h"

#include "base/convert.h"
#include "base/random.h"
#include "beat/pattern_edits.h"
#include "model/edits.h"

#include <algorithm>
#include <cmath>
#include <numeric>

namespace tuvvo {

namespace {

Beats lastBarOf(const Pattern& pattern) { return barOf(pattern.meter) * (pattern.bars - 1); }

bool isSlice(const Project& project, const Hit& hit) {
  const Key* key = findKey(project, hit.key);
  return key && key->sound.cut != 0;
}

Row roleOf(const Project& project, Id part) {
  const Part* found = findPart(project, part);
  return found ? found->role : Row::Body;
}

/// The lane of a role with the most hits that are not slices; null for none.
Lane* busiest(const Project& project, Pattern& pattern, std::initializer_list<Row> roles) {
  for (Row role : roles) {
    Lane* best = nullptr;
    for (auto& lane : pattern.lanes) {
      if (roleOf(project, lane.part) != role || lane.hits.empty()) continue;
      if (isSlice(project, lane.hits.front())) continue;
      if (!best || lane.hits.size() > best->hits.size()) best = &lane;
    }
    if (best) return best;
  }
  return nullptr;
}

void drop(Pattern& pattern) {
  const std::int64_t bar = barOf(pattern.meter).value, pulse = pulseOf(pattern.meter).value;
  const Beats end = lengthOf(pattern);
  const Beats from = end - Beats(bar > 2 * pulse ? pulse : bar / 2);
  for (auto& lane : pattern.lanes) {
    std::erase_if(lane.hits, [&](const Hit& hit) { return hit.at >= from; });
    for (auto& hit : lane.hits) // what would sound into it is let go there
      if (hit.length.value > 0 && hit.at < from) hit.length = std::min(hit.length, from - hit.at);
  }
}

/// Eighths, then sixteenths, rising in velocity, with a gap now and then.
void fill(const Project& project, Pattern& pattern, Random& random) {
  Lane* lane = busiest(project, pattern, {Row::Body, Row::Air, Row::Floor});
  if (!lane) return;
  const Hit model = lane->hits.back();
  const std::int64_t pulse = pulseOf(pattern.meter).value, quarter = pulse / 4;
  const Beats end = lengthOf(pattern);
  const Beats from = std::max(lastBarOf(pattern), end - Beats(2 * pulse));
  std::erase_if(lane->hits, [&](const Hit& hit) { return hit.at >= from; });
  const std::int64_t steps = (end - from).value / quarter;
  for (std::int64_t i = 0; i < steps; ++i) {
    const bool first = i < steps / 2;
    if (first ? i % 2 == 1 : i + 1 < steps && random.unit() < 0.25) continue;
    Hit hit;
    hit.key = model.key;
    hit.at = from + Beats(quarter * i);
    hit.velocity =
        std::clamp(0.45 + 0.5 * double(i) / double(std::max<std::int64_t>(1, steps - 1)) +
                       0.06 * random.bipolar(),
                   0.1, 1.0);
    lane->hits.push_back(hit);
  }
}

void roll(const Project& project, Pattern& pattern, Random& random) {
  Lane* lane = busiest(project, pattern, {Row::Air, Row::Body, Row::Floor});
  if (!lane) return;
  const std::int64_t pulse = pulseOf(pattern.meter).value;
  const Beats from = lengthOf(pattern) - Beats(pulse);
  const Id key = lane->hits.back().key;
  std::erase_if(lane->hits, [&](const Hit& hit) { return hit.at >= from; });
  Hit hit;
  hit.key = key;
  hit.at = from;
  hit.velocity = 0.5;
  hit.roll.hits = random.unit() < 0.5 ? 8 : 6; // 32nds or sextuplets of a beat
  hit.roll.step = Beats(pulse / hit.roll.hits);
  hit.roll.endLevel = 1.8;
  lane->hits.push_back(hit);
}

/// Deals the keys of some hits anew, so that as many as can be play another than before.
void deal(std::vector<Hit*>& hits, const std::vector<Id>& pool, Random& random) {
  for (Hit* hit : hits) {
    std::vector<Id> others;
    for (Id key : pool)
      if (key != hit->key) others.push_back(key);
    if (!others.empty()) hit->key = others[std::size_t(random.next() % others.size())];
  }
}

void otherSlices(const Project& project, Pattern& pattern, Random& random) {
  const Beats from = lastBarOf(pattern);
  bool any = false;
  for (auto& lane : pattern.lanes) {
    std::vector<Hit*> hits;
    std::vector<Id> pool;
    for (auto& hit : lane.hits) {
      if (!isSlice(project, hit)) continue;
      if (std::find(pool.begin(), pool.end(), hit.key) == pool.end()) pool.push_back(hit.key);
      if (hit.at >= from) hits.push_back(&hit);
    }
    any = any || (!hits.empty() && pool.size() > 1);
    deal(hits, pool, random);
  }
  if (any) return;
  // Drums alone: the last beat's hits of one role change among its sounds of the deck.
  for (auto& lane : pattern.lanes) {
    if (roleOf(project, lane.part) != Row::Body) continue;
    std::vector<Id> pool;
    for (const auto& key : project.keys)
      if (key.row == Row::Body && key.sound.cut == 0 && key.part != 0 && key.part == lane.part)
        pool.push_back(key.id);
    std::vector<Hit*> hits;
    for (auto& hit : lane.hits)
      if (hit.at >= from) hits.push_back(&hit);
    deal(hits, pool, random);
  }
}

void reverse(const Project& project, Pattern& pattern) {
  const Beats from = lastBarOf(pattern);
  Hit* best = nullptr;
  bool bestSlice = false;
  for (auto& lane : pattern.lanes)
    for (auto& hit : lane.hits) {
      if (hit.at < from) continue;
      const bool slice = isSlice(project, hit);
      const bool rings = slice || roleOf(project, lane.part) != Row::Floor;
      if (!rings || (bestSlice && !slice)) continue;
      if (!best || (slice && !bestSlice) || hit.at >= best->at) {
        best = &hit;
        bestSlice = slice;
      }
    }
  if (best) best->reversed = !best->reversed;
}

} // namespace

Pattern withLastBarChanged(const Project& project, Pattern pattern, LastBar way,
                           std::uint64_t seed) {
  pattern = writtenOut(std::move(pattern));
  Random random(seed);
  switch (way) {
  case LastBar::Drop:
    drop(pattern);
    break;
  case LastBar::Fill:
    fill(project, pattern, random);
    break;
  case LastBar::Roll:
    roll(project, pattern, random);
    break;
  case LastBar::OtherSlice:
    otherSlices(project, pattern, random);
    break;
  case LastBar::Reverse:
    reverse(project, pattern);
    break;
  }
  clamp(pattern);
  return pattern;
}

Pattern withPartDropped(Pattern pattern, Id part, int bar) {
  pattern = writtenOut(std::move(pattern));
  bar = std::clamp(bar, 0, pattern.bars - 1);
  const Beats from = barOf(pattern.meter) * bar, until = from + barOf(pattern.meter);
  for (auto& lane : pattern.lanes) {
    if (lane.part != part) continue;
    std::erase_if(lane.hits, [&](const Hit& hit) { return hit.at >= from && hit.at < until; });
    for (auto& hit : lane.hits)
      if (hit.at < from && hit.length.value > 0) hit.length = std::min(hit.length, from - hit.at);
  }
  return pattern;
}

Pattern thinned(const Project& project, Pattern pattern, double keep, std::uint64_t seed) {
  pattern = writtenOut(std::move(pattern));
  keep = std::clamp(keep, 0.0, 1.0);
  Random random(seed);
  for (auto& lane : pattern.lanes) {
    const ResolvedTiming timed(project, pattern.meter, lane);
    std::vector<std::pair<double, std::size_t>> worth; // the least first
    std::vector<bool> gone(lane.hits.size(), false);
    for (std::size_t i = 1; i < lane.hits.size(); ++i) {
      const Hit& hit = lane.hits[i];
      if (hit.length.value > kTicksPerBeat) continue;
      static constexpr std::array<double, 5> places{1.0, 0.6, 0.7, 0.25, 0.0}; // by BeatClass
      worth.emplace_back(places[std::size_t(classOf(hit.at, pattern.meter))] +
                             0.5 * timed.velocityOf(hit) + 0.1 * random.unit(),
                         i);
    }
    std::sort(worth.begin(), worth.end());
    const double goes = (1 - keep) * double(lane.hits.size());
    const auto count = std::min(worth.size(), toNearest<std::size_t>(goes));
    for (std::size_t n = 0; n < count; ++n) gone[worth[n].second] = true;
    std::vector<Hit> left;
    for (std::size_t i = 0; i < lane.hits.size(); ++i)
      if (!gone[i]) left.push_back(lane.hits[i]);
    lane.hits = std::move(left);
  }
  return pattern;
}

} // namespace tuvvo
