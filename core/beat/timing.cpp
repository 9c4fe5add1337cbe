#include "beat/timing.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace tuvvo {

namespace {

// What is heard of timing (common practice, no source): less than this is not told apart by ear.
constexpr double kEvenMs = 8, kNoticedMs = 6, kTrendMs = 1.5;

std::string figure(double ms) {
  char text[32];
  std::snprintf(text, sizeof text, "%.0f ms", std::abs(ms));
  return text;
}

/// One sentence about the part that stands out most.
std::string sentenceOf(const Project& project, const TimingPicture& picture) {
  if (picture.all.hits < 4) return "Too few hits to say how even they are.";
  const PartTiming* odd = nullptr;
  for (const auto& part : picture.parts)
    if (part.feel.hits >= 4 &&
        (!odd || std::abs(part.feel.mean.value) > std::abs(odd->feel.mean.value)))
      odd = &part;
  const double trend = std::abs(picture.all.trend.value);
  if (trend > kTrendMs && trend > 2 * picture.all.trendError.value)
    return std::string(picture.all.trend.value > 0 ? "The take drags: " : "The take rushes: ") +
           figure(picture.all.trend.value) + (picture.all.trend.value > 0 ? " later" : " earlier") +
           " with every bar.";
  const std::string even = picture.all.spread.value <= kEvenMs
                               ? "evenly, within " + figure(picture.all.spread.value)
                               : "loosely, " + figure(picture.all.spread.value) + " apart";
  if (odd && std::abs(odd->feel.mean.value) > kNoticedMs) {
    const Part* part = findPart(project, odd->part);
    return (part ? part->name : std::string("One part")) + " lies " + figure(odd->feel.mean.value) +
           (odd->feel.mean.value > 0 ? " late" : " early") + "; all in all it was played " + even +
           ".";
  }
  return "On the beat and played " + even + ".";
}

} // namespace

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
  picture.sentence = sentenceOf(project, picture);
  return picture;
}

} // namespace tuvvo
