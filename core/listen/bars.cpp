#include "listen/bars.h"

#include "base/convert.h"
#include "listen/bar_weights.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kSkipS = 0.06; // silence before the start would give the answer away
constexpr double kReachS = 0.025;
constexpr double kMiddleOfThree = 0.6; // common practice, no source
constexpr double kHalfBarAsGood = 0.9; // similarity of half a bar to that of a whole: bars of two

double peakNear(const std::vector<float>& a, float wa, const std::vector<float>& b, float wb,
                double timeS) {
  const int from = std::max(0, toWhole<int>(std::ceil((timeS - kReachS) * OnsetStrength::kRate)));
  const int to =
      std::min(int(a.size()) - 1, toWhole<int>((timeS + kReachS) * OnsetStrength::kRate));
  float most = 0;
  for (int t = from; t <= to; ++t)
    most = std::max(most, wa * a[std::size_t(t)] + wb * b[std::size_t(t)]);
  return double(most);
}

/// One row a slot of the lattice: the five features.
std::vector<std::array<double, BarPicture::kFeatures>>
slotFeatures(const OnsetStrength& strength, const Harmony& harmony, const Pulse& pulse,
             double durationS, int perBeat, long& firstSlot) {
  firstSlot = toWhole<long>(std::ceil(pulse.beatsAt(kSkipS) * perBeat));
  const long last = toWhole<long>(std::floor(pulse.beatsAt(durationS - 0.02) * perBeat));
  std::vector<std::array<double, BarPicture::kFeatures>> out;
  const auto& g = strength.groups;
  for (long s = firstSlot; s <= last; ++s) {
    const double at = pulse.timeOf(double(s) / perBeat);
    std::array<double, BarPicture::kFeatures> row{peakNear(g[0], 1, g[1], 0.5f, at),
                                                  peakNear(g[2], 1, g[3], 1, at),
                                                  peakNear(g[4], 1, g[4], 0, at)};
    // Harmony before and after, over one, two and four beats.
    std::size_t f = 3;
    for (int reach : {1, 2, 4}) {
      const double before = pulse.timeOf(double(s) / perBeat - reach),
                   after = pulse.timeOf(double(s) / perBeat + reach);
      if (before >= 0 && after <= durationS) {
        const auto change = harmony.changeAt(before, at, after);
        row[f] = change.all;
        row[f + 1] = change.bass;
      }
      f += 2;
    }
    out.push_back(row);
  }
  return out;
}

BarPicture fold(const std::vector<std::array<double, BarPicture::kFeatures>>& rows, long firstSlot,
                int beatsPerBar, int perBeat) {
  BarPicture out;
  out.beatsPerBar = beatsPerBar;
  out.perBeat = perBeat;
  const long count = long(beatsPerBar) * perBeat;
  for (std::size_t f = 0; f < BarPicture::kFeatures; ++f) {
    std::vector<double> sum(std::size_t(count), 0.0), n(std::size_t(count), 1e-9);
    double all = 1e-9;
    for (std::size_t i = 0; i < rows.size(); ++i) {
      const auto slot = std::size_t(((firstSlot + long(i)) % count + count) % count);
      if (f >= 3 && rows[i][f] == 0) continue; // the harmony there is not known
      sum[slot] += rows[i][f];
      n[slot] += 1;
    }
    for (std::size_t s = 0; s < sum.size(); ++s) all += sum[s] / n[s] / double(count);
    double mean = 0;
    for (std::size_t s = 0; s < sum.size(); ++s) {
      sum[s] = std::log(0.15 + sum[s] / n[s] / all);
      mean += sum[s] / double(count);
    }
    for (double& v : sum) v -= mean;
    out.slots[f] = std::move(sum);
  }
  return out;
}

using Rows = std::vector<std::array<double, BarPicture::kFeatures>>;

/// How alike the slots are a number of slots apart, 0 to 1.
/// @param loop  slots of the whole loop, for going round its end; 0 where it is none
double repeats(const Rows& rows, long firstSlot, long lag, long loop) {
  std::array<double, BarPicture::kFeatures> mean{};
  for (const auto& row : rows)
    for (std::size_t f = 0; f < mean.size(); ++f) mean[f] += row[f] / double(rows.size());
  double total = 0;
  for (std::size_t f = 0; f < mean.size(); ++f) {
    double xx = 1e-9, xy = 0;
    for (std::size_t i = 0; i < rows.size(); ++i) {
      long other = firstSlot + long(i) + lag;
      if (loop > 0) other %= loop;
      other -= firstSlot;
      if (other < 0 || other >= long(rows.size())) continue;
      const double x = rows[i][f] - mean[f], y = rows[std::size_t(other)][f] - mean[f];
      xx += (x * x + y * y) / 2;
      xy += x * y;
    }
    total += xy / xx / double(mean.size());
  }
  return total;
}

/// Where beats divide in three, a shuffle leaves the middle one out; six eighths do not.
bool allThreePlayed(const Rows& rows, long firstSlot) {
  std::array<double, 3> sum{};
  for (std::size_t i = 0; i < rows.size(); ++i)
    sum[std::size_t(((firstSlot + long(i)) % 3 + 3) % 3)] += rows[i][0] + rows[i][1] + rows[i][2];
  return sum[1] > kMiddleOfThree * sum[2] && sum[2] > kMiddleOfThree / 2 * sum[0];
}

} // namespace

BarPicture pictureOf(const OnsetStrength& strength, const Harmony& harmony, const Pulse& pulse,
                     double durationS, int beatsPerBar) {
  long first = 0;
  const int perBeat = pulse.triplet ? 3 : 4;
  const auto rows = slotFeatures(strength, harmony, pulse, durationS, perBeat, first);
  return fold(rows, first, beatsPerBar, perBeat);
}

Bars findBars(const OnsetStrength& strength, const Harmony& harmony, const Pulse& pulse,
              double durationS, bool startsOnOne) {
  long first = 0;
  const int perBeat = pulse.triplet ? 3 : 4;
  const auto rows = slotFeatures(strength, harmony, pulse, durationS, perBeat, first);
  Bars out;
  // A loop that would be three, six or twelve bars of four may well be four, eight or sixteen of
  // three: there a short one is asked as well, and the doubt is not against the three.
  const auto beats = toNearest<long>(pulse.beatsAt(durationS) - pulse.beatsAt(0));
  out.compound = pulse.triplet && allThreePlayed(rows, first);
  const bool perhapsThrees = startsOnOne && beats % 12 == 0 && beats / 12 % 2 == 1;
  if (rows.size() > std::size_t(perBeat) * (perhapsThrees ? 8 : 24)) {
    const auto alike = [&](int lag) {
      return repeats(rows, first, long(lag) * perBeat, perhapsThrees ? beats * perBeat : 0);
    };
    // Four unless another number of beats plainly comes round better.
    const double four = std::max(alike(4), alike(8));
    double most = four + (perhapsThrees ? 0 : kMeterMargin);
    for (int meter : {3, 5, 7}) {
      if (rows.size() <= std::size_t(2 * meter * perBeat)) continue;
      const double other = (alike(meter) + alike(2 * meter)) / 2;
      if (other > most) {
        most = other;
        out.meter = meter;
      }
    }
    if (out.compound && out.meter == 4 && alike(2) > kHalfBarAsGood * alike(4)) out.meter = 2;
  }
  const BarPicture picture = fold(rows, first, out.meter, perBeat);
  const int count = out.meter * perBeat;
  std::vector<std::pair<double, int>> ranked;
  for (int rotation = 0; rotation < count; ++rotation) {
    double score = 0;
    for (int s = 0; s < count; ++s)
      for (std::size_t f = 0; f < BarPicture::kFeatures; ++f)
        score += barWeight(f, s, out.meter, perBeat) *
                 picture.slots[f][std::size_t((s + rotation) % count)];
    if (startsOnOne) {
      const double place = pulse.timeOf(double(rotation) / perBeat);
      const double bar = pulse.timeOf(out.meter) - pulse.timeOf(0);
      const double off = std::abs(place - std::round(place / bar) * bar);
      if (off < 0.03) score += kStartsOnOne;
    }
    ranked.emplace_back(score, rotation);
  }
  std::sort(ranked.rbegin(), ranked.rend());
  out.firstDownbeat = double(ranked[0].second) / perBeat;
  out.margin = ranked[0].first - ranked[1].first;
  return out;
}

} // namespace tuvvo
