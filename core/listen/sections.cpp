#include "listen/sections.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kAlike = 0.90; // cosine from which two blocks are the same section

/// What sounds in a stretch and how it moves, each half of length one.
std::vector<double> pictureOf(const Harmony& harmony, const OnsetStrength& strength, Seconds from,
                              Seconds to) {
  const auto bins = harmony.between(from.value, to.value);
  std::vector<double> tones(12, 0.0);
  for (std::size_t b = 0; b < bins.size(); ++b)
    tones[(b / Harmony::kPerSemitone + Harmony::kLowNote) % 12] += double(bins[b]);
  std::vector<double> moves(OnsetStrength::kGroups, 1e-6);
  const auto first = toWhole<std::size_t>(from.value * OnsetStrength::kRate),
             last = std::min(toWhole<std::size_t>(to.value * OnsetStrength::kRate),
                             strength.groups[0].size());
  for (std::size_t g = 0; g < moves.size(); ++g)
    for (std::size_t t = first; t < last; ++t)
      moves[g] += double(strength.groups[g][t]) / double(last - first);
  const auto scale = [](std::vector<double>& values) {
    double sum = 1e-12;
    for (double v : values) sum += v * v;
    for (double& v : values) v /= std::sqrt(sum);
  };
  // The mean is what all stretches share: it says nothing.
  double mean = 0;
  for (double v : tones) mean += v / 12;
  for (double& v : tones) v -= 0.7 * mean;
  scale(tones);
  scale(moves);
  tones.insert(tones.end(), moves.begin(), moves.end());
  return tones;
}

double similarity(const std::vector<double>& x, const std::vector<double>& y) {
  double tones = 0, moves = 0;
  for (std::size_t i = 0; i < 12; ++i) tones += x[i] * y[i];
  for (std::size_t i = 12; i < x.size(); ++i) moves += x[i] * y[i];
  return std::min(tones, moves); // both must agree
}

} // namespace

std::vector<SectionHeard> analyseSections(const Harmony& harmony, const OnsetStrength& strength,
                                          std::span<const Seconds> downbeats, Seconds duration) {
  if (downbeats.size() < 2) return {};
  const std::size_t step = downbeats.size() >= 8 ? 4 : downbeats.size() >= 4 ? 2 : 1;
  std::vector<SectionHeard> out;
  std::vector<std::vector<double>> known; // one picture a letter
  for (std::size_t bar = 0; bar < downbeats.size(); bar += step) {
    const Seconds from = downbeats[bar],
                  to = bar + step < downbeats.size() ? downbeats[bar + step] : duration;
    if (to.value - from.value < 0.2) break;
    const auto picture = pictureOf(harmony, strength, from, to);
    std::size_t letter = known.size();
    double most = kAlike;
    for (std::size_t k = 0; k < known.size(); ++k)
      if (const double alike = similarity(picture, known[k]); alike > most) {
        most = alike;
        letter = k;
      }
    if (letter == known.size()) known.push_back(picture);
    const std::string label(1, char('A' + letter % 26));
    if (!out.empty() && out.back().label == label)
      out.back().end = to;
    else
      out.push_back({from, to, label});
  }
  return out;
}

} // namespace tuvvo
