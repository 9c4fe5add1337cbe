#include "beat/timing.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

// What is heard of timing (common practice, no source): less than this is not told apart by ear.
constexpr double kEvenMs = 8, kNoticedMs = 6, kTrendMs = 1.5;
constexpr int kFewestHits = 4;

/// The part that lies furthest from its feel, of those with enough hits to tell.
std::optional<std::size_t> oddPartOf(const std::vector<PartTiming>& parts) {
  std::optional<std::size_t> odd;
  for (std::size_t i = 0; i < parts.size(); ++i)
    if (parts[i].feel.hits >= kFewestHits &&
        (!odd || std::abs(parts[i].feel.mean.value) > std::abs(parts[*odd].feel.mean.value)))
      odd = i;
  return odd;
}

TimingVerdict verdictOf(const TimingPicture& picture) {
  if (picture.all.hits < kFewestHits) return TimingVerdict::TooFew;
  const double trend = std::abs(picture.all.trend.value);
  if (trend > kTrendMs && trend > 2 * picture.all.trendError.value) return TimingVerdict::Trend;
  if (picture.odd && std::abs(picture.parts[*picture.odd].feel.mean.value) > kNoticedMs)
    return TimingVerdict::PartOff;
  return TimingVerdict::Steady;
}

} // namespace

bool TimingPicture::even() const { return all.spread.value <= kEvenMs; }

TimingFigures figuresOf(const std::vector<TimedHit>& hits, bool feel) {
  TimingFigures out;
  out.hits = int(hits.size());
  if (hits.empty()) return out;
  const auto off = [&](const TimedHit& h) { return feel ? h.offFeel.value : h.offGrid.value; };
  const double n = double(hits.size());
  double sum = 0, bars = 0;
  for (const auto& hit : hits) {
    sum += off(hit);
    bars += hit.bar;
  }
  const double mean = sum / n, middle = bars / n;
  double square = 0, across = 0, along = 0;
  for (const auto& hit : hits) {
    square += std::pow(off(hit) - mean, 2);
    across += (off(hit) - mean) * (hit.bar - middle);
    along += std::pow(hit.bar - middle, 2);
  }
  out.mean = Milliseconds(mean);
  out.spread = Milliseconds(n > 1 ? std::sqrt(square / (n - 1)) : 0);
  if (along > 0.25 && n > 2) { // less than half a bar has no trend
    const double slope = across / along;
    out.trend = Milliseconds(slope);
    out.trendError =
        Milliseconds(std::sqrt(std::max(0.0, square - slope * across) / (n - 2) / along));
  }
  return out;
}

TimingPicture timingOf(const Project& project, const Pattern& pattern,
                       const std::vector<RecordedHit>& hits) {
  TimingPicture picture;
  std::map<Id, PartTiming> parts;
  std::vector<TimedHit> all;
  for (const auto& hit : hits) {
    const Key* key = findKey(project, hit.key);
    const Part* part = key ? findPart(project, key->part) : nullptr;
    if (!part) continue;
    const double at = double(hit.at.value);
    const auto away = [&](const ResolvedTiming& feel) {
      const Beats line = feel.nearestLine(at, part->perBeat);
      return std::pair(line, feel.msOf(at - feel.placeOf(line)));
    };
    TimedHit timed;
    timed.key = hit.key;
    timed.velocity = hit.velocity;
    timed.bar = at / double(barOf(pattern.meter).value);
    timed.offGrid = away(ResolvedTiming(project, pattern.meter, Lane{})).second;
    std::tie(timed.line, timed.offFeel) = away(ResolvedTiming(project, pattern, part->id));
    timed.line.value %= laneLength(pattern, part->id).value;
    parts[part->id].hits.push_back(timed);
    all.push_back(timed);
  }
  for (const auto& part : project.parts)
    if (auto found = parts.find(part.id); found != parts.end()) {
      PartTiming& timing = found->second;
      timing.part = part.id;
      timing.grid = figuresOf(timing.hits, false);
      timing.feel = figuresOf(timing.hits, true);
      picture.parts.push_back(std::move(timing));
    }
  picture.all = figuresOf(all, true);
  picture.odd = oddPartOf(picture.parts);
  picture.verdict = verdictOf(picture);
  return picture;
}

} // namespace tuvvo
