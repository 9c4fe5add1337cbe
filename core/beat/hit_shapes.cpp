#include "beat/hit_shapes.h"

#include "base/convert.h"
#include "base/random.h"

#include <algorithm>
#include <map>
#include <tuple>

namespace tuvvo {

namespace {

/// Their indices by place, then by tune.
std::vector<std::size_t> inOrder(const HitClip& chosen) {
  std::vector<std::size_t> order(chosen.size());
  for (std::size_t i = 0; i < order.size(); ++i) order[i] = i;
  std::stable_sort(order.begin(), order.end(), [&](std::size_t a, std::size_t b) {
    return std::pair(chosen[a].hit.at, chosen[a].hit.tune.value) <
           std::pair(chosen[b].hit.at, chosen[b].hit.tune.value);
  });
  return order;
}

/// Places that hits stand at, each once, rising.
std::vector<Beats> placesOf(const HitClip& chosen) {
  std::vector<Beats> places;
  for (const auto& each : chosen) places.push_back(each.hit.at);
  std::sort(places.begin(), places.end());
  places.erase(std::unique(places.begin(), places.end()), places.end());
  return places;
}

std::size_t nthOf(const std::vector<Beats>& places, Beats at) {
  return std::size_t(std::lower_bound(places.begin(), places.end(), at) - places.begin());
}

/// How hard a place is struck, 0 (softest) to 1.
/// @param x  its share of the way from the first to the last
double hardness(VelocityShape shape, double x, std::size_t nth) {
  switch (shape) {
  case VelocityShape::Rise:
    return x;
  case VelocityShape::Fall:
    return 1 - x;
  case VelocityShape::Arch:
    return 1 - std::abs(2 * x - 1);
  case VelocityShape::Dip:
    return std::abs(2 * x - 1);
  case VelocityShape::Alternate:
    return nth % 2 == 0 ? 1 : 0;
  }
  return 1;
}

} // namespace

HitClip strummed(HitClip chosen, Milliseconds step) {
  const double each = std::clamp(step.value, -60.0, 60.0);
  std::map<Beats, std::size_t> counts, turns;
  for (const auto& hit : chosen) ++counts[hit.hit.at];
  for (std::size_t i : inOrder(chosen)) {
    Hit& hit = chosen[i].hit;
    const std::size_t turn = turns[hit.at]++;
    hit.microTiming =
        Milliseconds(std::abs(each) * double(each >= 0 ? turn : counts[hit.at] - 1 - turn));
    clamp(hit);
  }
  return chosen;
}

HitClip evenlySpaced(HitClip chosen) {
  const auto places = placesOf(chosen);
  if (places.size() < 3) return chosen;
  const double span = double((places.back() - places.front()).value);
  for (auto& each : chosen) {
    const double share = double(nthOf(places, each.hit.at)) / double(places.size() - 1);
    each.hit.at = places.front() + Beats(toNearest<std::int64_t>(span * share));
  }
  return chosen;
}

HitClip pannedAcross(HitClip chosen, double width) {
  const auto order = inOrder(chosen);
  for (std::size_t nth = 0; nth < order.size(); ++nth) {
    const double x = order.size() > 1 ? 2 * double(nth) / double(order.size() - 1) - 1 : 0;
    chosen[order[nth]].hit.pan = std::clamp(x * width, -1.0, 1.0);
  }
  return chosen;
}

HitClip velocityShaped(HitClip chosen, VelocityShape shape, double depth) {
  const auto places = placesOf(chosen);
  if (places.size() < 2) return chosen;
  const double span = double((places.back() - places.front()).value);
  const auto hardAt = [&](Beats at) {
    return hardness(shape, double((at - places.front()).value) / span, nthOf(places, at));
  };
  double most = 0, top = 0;
  for (const auto& each : chosen) most = std::max(most, each.hit.velocity);
  for (Beats at : places) top = std::max(top, hardAt(at));
  for (auto& each : chosen) {
    const double hard = top > 0 ? hardAt(each.hit.at) / top : 1;
    each.hit.velocity =
        std::clamp(most * (1 - std::clamp(depth, 0.0, 0.95) * (1 - hard)), 0.02, 1.0);
  }
  return chosen;
}

HitClip dealtAnew(HitClip chosen, std::uint64_t seed) {
  std::map<Id, std::vector<std::size_t>> parts;
  for (std::size_t i : inOrder(chosen)) parts[chosen[i].part].push_back(i);
  Random random(seed);
  const HitClip before = chosen;
  for (const auto& [part, places] : parts) {
    std::vector<std::size_t> from = places;
    for (std::size_t i = from.size(); i > 1; --i)
      std::swap(from[i - 1], from[std::size_t(random.unit() * double(i))]);
    for (std::size_t i = 0; i < places.size(); ++i) {
      Hit& hit = chosen[places[i]].hit;
      const Hit& what = before[from[i]].hit;
      std::tie(hit.key, hit.tune, hit.start, hit.reversed, hit.pan, hit.bright) =
          std::tie(what.key, what.tune, what.start, what.reversed, what.pan, what.bright);
    }
  }
  return chosen;
}

HitClip humanised(HitClip chosen, Milliseconds timing, double velocity, std::uint64_t seed) {
  Random random(seed);
  for (std::size_t i : inOrder(chosen)) {
    Hit& hit = chosen[i].hit;
    hit.microTiming.value += random.bell() * std::clamp(timing.value, 0.0, 40.0);
    hit.velocity =
        std::clamp(hit.velocity * (1 + random.bell() * std::clamp(velocity, 0.0, 0.4)), 0.02, 1.0);
    clamp(hit);
  }
  return chosen;
}

} // namespace tuvvo
