#include "listen/bars.h"

#include "base/convert.h"
#include "listen/bar_weights.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kSkipS = 0.06; // silence before the start would give the answer away
constexpr double kReachS = 0.025;
// In favour of a loop's first frame, in nepers: nine loops of ten begin on one (common practice, no
// source), and there are about sixteen places.
constexpr double kStartsOnOne = 4.9;
constexpr double kMiddleOfThree = 0.6; // common practice, no source
constexpr double kHalfBarAsGood = 0.9; // six eighths rather than twelve: likeness of half a bar
constexpr double kWholeWithin = 0.08;  // beats

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

/// Log odds of the likeliest of the frames within 35 ms, held at ±5.
double oddsNear(const std::vector<float>& likelihoods, double timeS) {
  const auto count = int(likelihoods.size());
  if (count == 0) return 0;
  const int centre = toNearestIn(timeS * BeatSense::kRate, 0, count - 1);
  float most = 0;
  for (int t = std::max(0, centre - 2); t <= std::min(count - 1, centre + 2); ++t)
    most = std::max(most, likelihoods[std::size_t(t)]);
  return std::clamp(std::log((double(most) + 1e-9) / (1 - double(most) + 1e-9)), -5.0, 5.0);
}

std::size_t placeIn(long slot, long count) {
  return static_cast<std::size_t>((slot % count + count) % count);
}

/// The weight of a feature on a slot of a bar. Other meters take their first and last beat from the
/// first and fourth; triplets count as the divisions of a beat.
double weightOf(std::size_t feature, int slot, int meter, int perBeat) {
  const auto& weights = kBarWeights[feature];
  const int beat = slot / perBeat, division = slot % perBeat;
  if (division != 0) return perBeat == 4 && division == 2 ? weights[4] : weights[5];
  if (beat == 0) return weights[0];
  if (meter == 4) return weights[std::size_t(beat)];
  return beat == meter - 1 ? weights[3] : (weights[1] + weights[2]) / 2;
}

} // namespace

BarFinder::BarFinder(const OnsetStrength& strength, const BeatSense& sense, const Harmony& harmony,
                     const Pulse& pulse, Seconds duration)
    : m_pulse(pulse), m_durationS(duration.value), m_perBeat(pulse.triplet ? 3 : 4),
      m_first(toWhole<long>(std::ceil(pulse.beatsAt(kSkipS) * m_perBeat))) {
  const long last = toWhole<long>(std::floor(pulse.beatsAt(m_durationS - 0.02) * m_perBeat));
  for (long slot = m_first; slot <= last; ++slot)
    m_rows.push_back(rowAt(strength, sense, harmony, double(slot) / m_perBeat));
}

BarFinder::Row BarFinder::rowAt(const OnsetStrength& strength, const BeatSense& sense,
                                const Harmony& harmony, double beats) const {
  const auto& g = strength.groups;
  const double at = m_pulse.timeOf(beats);
  Row row{peakNear(g[0], 1, g[1], 0.5f, at), peakNear(g[2], 1, g[3], 1, at),
          peakNear(g[4], 1, g[4], 0, at)};
  // Harmony before and after, over one, two and four beats.
  std::size_t f = 3;
  for (int reach : {1, 2, 4}) {
    const double before = m_pulse.timeOf(beats - reach), after = m_pulse.timeOf(beats + reach);
    if (before >= 0 && after <= m_durationS) {
      const auto change = harmony.changeAt(before, at, after);
      row[f] = change.all;
      row[f + 1] = change.bass;
    }
    f += 2;
  }
  row[f] = oddsNear(sense.beat, at);
  row[f + 1] = oddsNear(sense.one, at);
  return row;
}

/// Where beats divide in three, a shuffle leaves the middle one out; six eighths do not.
bool BarFinder::compound() const {
  if (m_perBeat != 3) return false;
  std::array<double, 3> sum{};
  for (std::size_t i = 0; i < m_rows.size(); ++i)
    for (std::size_t f = 0; f < 3; ++f) sum[placeIn(m_first + long(i), 3)] += m_rows[i][f];
  return sum[1] > kMiddleOfThree * sum[2] && sum[2] > kMiddleOfThree / 2 * sum[0];
}

/// How alike the slots are a number of slots apart, 0 to 1.
double BarFinder::repeats(long lag) const {
  std::array<double, BarPicture::kHeard> mean{};
  for (const auto& row : m_rows)
    for (std::size_t f = 0; f < mean.size(); ++f) mean[f] += row[f] / double(m_rows.size());
  double total = 0;
  for (std::size_t f = 0; f < mean.size(); ++f) {
    double xx = 1e-9, xy = 0;
    for (std::size_t i = 0; i + std::size_t(lag) < m_rows.size(); ++i) {
      const double x = m_rows[i][f] - mean[f], y = m_rows[i + std::size_t(lag)][f] - mean[f];
      xx += (x * x + y * y) / 2;
      xy += x * y;
    }
    total += xy / xx / double(mean.size());
  }
  return total;
}

double BarFinder::stress(int meter) const {
  const auto picture = this->picture(meter);
  const auto& one = picture.slots[BarPicture::kFeatures - 1];
  const auto best = std::size_t(std::max_element(one.begin(), one.end()) - one.begin());
  double others = 0;
  for (int beat = 1; beat < meter; ++beat)
    others += one[(best + std::size_t(beat * m_perBeat)) % one.size()] / (meter - 1);
  return one[best] - others;
}

std::vector<MeterEvidence> BarFinder::meterEvidence() const {
  std::vector<MeterEvidence> out;
  const double beats = m_pulse.beatsAt(m_durationS) - m_pulse.beatsAt(0);
  const auto whole = toNearest<long>(beats);
  for (int meter = kFewestBeats; meter <= kMostBeats; ++meter) {
    const long bar = long(meter) * m_perBeat;
    if (long(m_rows.size()) <= 2 * bar) break;
    const bool fits = whole % meter == 0 && std::abs(beats - double(whole)) < kWholeWithin;
    out.push_back({meter, repeats(bar), repeats(2 * bar), stress(meter), fits ? 1.0 : 0.0});
  }
  return out;
}

int BarFinder::meter() const {
  int best = 4;
  double most = -1e18;
  const auto all = meterEvidence();
  if (all.size() < 3) return best; // too short to say anything about fours
  for (const auto& [meter, again, later, stress, whole] : all) {
    const double score = kMeterWeights[0] * again + kMeterWeights[1] * later +
                         kMeterWeights[2] * stress + kMeterWeights[3] * whole +
                         kMeterPriors[std::size_t(meter - kFewestBeats)];
    if (score > most) {
      most = score;
      best = meter;
    }
  }
  const bool halves = best == 4 && compound() &&
                      repeats(long(2) * m_perBeat) > kHalfBarAsGood * repeats(long(4) * m_perBeat);
  return halves ? 2 : best;
}

BarPicture BarFinder::picture(int beatsPerBar) const {
  BarPicture out;
  const long count = long(beatsPerBar) * m_perBeat;
  for (std::size_t f = 0; f < BarPicture::kFeatures; ++f) {
    std::vector<double> sum(std::size_t(count), 0.0), n(std::size_t(count), 1e-9);
    const bool heard = f < BarPicture::kHeard;
    double all = 1e-9;
    for (std::size_t i = 0; i < m_rows.size(); ++i) {
      const std::size_t slot = placeIn(m_first + long(i), count);
      if (heard && f >= 3 && m_rows[i][f] == 0) continue; // the harmony there is not known
      sum[slot] += m_rows[i][f];
      n[slot] += 1;
    }
    for (std::size_t s = 0; s < sum.size(); ++s) all += sum[s] / n[s] / double(count);
    double mean = 0;
    for (std::size_t s = 0; s < sum.size(); ++s) {
      sum[s] = heard ? std::log(0.15 + sum[s] / n[s] / all) : sum[s] / n[s];
      mean += sum[s] / double(count);
    }
    for (double& v : sum) v -= mean;
    out.slots[f] = std::move(sum);
  }
  return out;
}

double BarFinder::firstDownbeat(int meter, bool startsOnOne) const {
  const BarPicture picture = this->picture(meter);
  const int count = meter * m_perBeat;
  std::pair<double, int> best{-1e18, 0};
  for (int rotation = 0; rotation < count; ++rotation) {
    double score = 0;
    for (int s = 0; s < count; ++s)
      for (std::size_t f = 0; f < BarPicture::kFeatures; ++f)
        score += weightOf(f, s, meter, m_perBeat) *
                 picture.slots[f][std::size_t((s + rotation) % count)];
    if (startsOnOne) {
      const double place = m_pulse.timeOf(double(rotation) / m_perBeat);
      const double bar = m_pulse.timeOf(meter) - m_pulse.timeOf(0);
      const double off = std::abs(place - std::round(place / bar) * bar);
      if (off < 0.03) score += kStartsOnOne;
    }
    best = std::max(best, std::pair(score, rotation));
  }
  return double(best.second) / m_perBeat;
}

} // namespace tuvvo
