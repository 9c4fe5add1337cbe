#include "listen/hit_intervals.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kIntervalBinS = 0.01, kShortestIntervalS = 0.02, kLongestIntervalS = 5;
constexpr int kNearBins = 2; // bins either way that count as one place
constexpr std::size_t kFewestHits = 3;
constexpr double kMostShare = 1.5;

std::vector<double> timesOf(std::span<const Onset> onsets, HitClass hit) {
  std::vector<double> out;
  for (const Onset& onset : onsets)
    if (std::find(onset.hits.begin(), onset.hits.end(), hit) != onset.hits.end())
      out.push_back(onset.at.value);
  return out;
}

std::vector<float> sharesOf(const std::vector<double>& from, const std::vector<double>& to) {
  if (std::min(from.size(), to.size()) < kFewestHits) return {};
  const auto bins = toWhole<std::size_t>(kLongestIntervalS / kIntervalBinS) + 1;
  std::vector<float> counts(bins, 0.0f), out(bins, 0.0f);
  std::size_t first = 0;
  for (const double at : from) {
    while (first < to.size() && to[first] <= at + kShortestIntervalS) ++first;
    for (std::size_t k = first; k < to.size() && to[k] < at + kLongestIntervalS; ++k)
      ++counts[std::min(bins - 1, toNearest<std::size_t>((to[k] - at) / kIntervalBinS))];
  }
  const auto each = float(1 / std::sqrt(double(from.size()) * double(to.size())));
  for (std::size_t i = 0; i < bins; ++i)
    for (std::size_t k = i - std::min<std::size_t>(i, kNearBins);
         k <= std::min(bins - 1, i + kNearBins); ++k)
      out[i] += counts[k] * each;
  return out;
}

} // namespace

HitIntervals::HitIntervals(std::span<const Onset> onsets) {
  const auto kicks = timesOf(onsets, HitClass::Kick), snares = timesOf(onsets, HitClass::Snare),
             hats = timesOf(onsets, HitClass::Hat);
  m_shares = {sharesOf(kicks, kicks), sharesOf(snares, snares), sharesOf(hats, hats),
              sharesOf(kicks, snares), sharesOf(snares, kicks)};
}

double HitIntervals::share(Pair pair, double afterS) const {
  const auto& shares = m_shares[pair];
  const auto bin = toNearest<std::size_t>(std::max(0.0, afterS) / kIntervalBinS);
  if (bin + 2 >= shares.size()) return 0;
  const float most = std::max({shares[bin > 0 ? bin - 1 : 0], shares[bin], shares[bin + 1]});
  return std::min(kMostShare, double(most));
}

} // namespace tuvvo
