#include "beat/similarity.h"

#include "beat/hits.h"

#include <algorithm>
#include <cmath>
#include <tuple>

namespace tuvvo {

namespace {

constexpr double kOnePlace = double(kTicksPerBeat) / 8; ///< a 32nd
constexpr double kTurned = 0.5;                         ///< the same where one is played backwards
constexpr double kOtherTune = 0.5; ///< what is left of an agreement where the tune differs
constexpr double kExact = 1 - 1e-6;

struct BarHit {
  Id key = 0;
  double at = 0, velocity = 0, tune = 0; ///< ticks from the bar's start, as heard
  bool reversed = false;
  bool operator<(const BarHit& o) const {
    return std::tie(key, at, tune, velocity) < std::tie(o.key, o.at, o.tune, o.velocity);
  }
};
using Bar = std::vector<BarHit>;

/// What every bar holds; lanes that come round by themselves are followed through the pattern.
std::vector<Bar> barsOf(const Project& project, const Pattern& pattern) {
  std::vector<Bar> bars(std::size_t(pattern.bars));
  const std::int64_t bar = barOf(pattern.meter).value, length = lengthOf(pattern).value;
  for (const auto& lane : pattern.lanes) {
    const ResolvedTiming timed(project, pattern.meter, lane);
    const std::int64_t round = lengthOf(pattern, lane).value;
    for (std::int64_t from = 0; from < length; from += round)
      for (const auto& hit : lane.hits) {
        const std::int64_t at = from + hit.at.value;
        if (hit.at.value >= round || at >= length) break;
        const auto index = std::size_t(at / bar);
        bars[index].push_back({hit.key,
                               double(at % bar) + timed.heardAt(hit) - double(hit.at.value),
                               timed.velocityOf(hit), hit.tune.value, hit.reversed});
      }
  }
  for (auto& each : bars) std::sort(each.begin(), each.end());
  return bars;
}

double similarity(const Bar& a, const Bar& b) {
  if (a.empty() && b.empty()) return 1;
  double agreed = 0;
  std::size_t j = 0;
  for (const auto& hit : a) {
    while (j < b.size() &&
           (b[j].key < hit.key || (b[j].key == hit.key && b[j].at < hit.at - kOnePlace)))
      ++j;
    if (j >= b.size() || b[j].key != hit.key || b[j].at > hit.at + kOnePlace) continue;
    agreed += (1 - std::abs(hit.velocity - b[j].velocity)) *
              (hit.tune == b[j].tune ? 1 : kOtherTune) *
              (hit.reversed == b[j].reversed ? 1 : kTurned);
    ++j;
  }
  return 2 * agreed / double(a.size() + b.size());
}

} // namespace

double barSimilarity(const Project& project, const Pattern& pattern, int a, int b) {
  const auto bars = barsOf(project, pattern);
  const auto at = [&](int i) -> const Bar& {
    return bars[std::size_t(std::clamp(i, 0, pattern.bars - 1))];
  };
  return similarity(at(a), at(b));
}

std::vector<BarSimilarity> barsAlike(const Project& project, const Pattern& pattern) {
  const auto bars = barsOf(project, pattern);
  std::vector<BarSimilarity> out;
  std::vector<std::size_t> firsts; // of the letters
  for (std::size_t i = 0; i < bars.size(); ++i) {
    BarSimilarity bar;
    bar.like = int(i);
    for (std::size_t j = 0; j < i; ++j)
      if (const double share = similarity(bars[j], bars[i]); share > bar.share) {
        bar.share = share;
        bar.like = int(j);
      }
    if (bar.share < kSameLetter) {
      bar.letter = int(firsts.size());
      bar.like = int(i);
      firsts.push_back(i);
    } else {
      bar.letter = out[std::size_t(bar.like)].letter;
      bar.exact = similarity(bars[firsts[std::size_t(bar.letter)]], bars[i]) >= kExact;
    }
    out.push_back(bar);
  }
  return out;
}

double meanSimilarity(const std::vector<BarSimilarity>& bars) {
  if (bars.size() < 2) return 0;
  double sum = 0;
  for (std::size_t i = 1; i < bars.size(); ++i) sum += bars[i].share;
  return sum / double(bars.size() - 1);
}

} // namespace tuvvo
