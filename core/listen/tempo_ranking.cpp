#include "listen/tempo_ranking.h"

#include "base/convert.h"
#include "listen/spectrum.h"
#include "listen/tempo_weights.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr std::array<double, OnsetStrength::kGroups> kGroupWeights{1, 0.5, 1, 1, 1};
constexpr int kTransform = 1 << 16; // 0.0026 Hz a bin at the strength's rate

/// Adds the autocorrelation of a curve, 1 at no lag, by the power spectrum (Wiener–Khinchin),
/// padded so that nothing wraps round.
void addAutocorrelation(const std::vector<float>& curve, double weight, std::vector<double>& to) {
  const auto n = std::int64_t(curve.size());
  double mean = 0;
  for (float v : curve) mean += double(v);
  mean /= double(std::max<std::int64_t>(1, n));
  int size = 1024;
  while (size < int(n) + int(to.size()) + 1) size *= 2;
  Fft fft(size);
  auto input = fft.input();
  std::fill(input.begin(), input.end(), 0.0f);
  for (std::size_t i = 0; i < curve.size(); ++i) input[i] = float(double(curve[i]) - mean);
  const auto bins = fft.run();
  std::vector<float> power(bins.size());
  for (std::size_t k = 0; k < bins.size(); ++k) power[k] = std::norm(bins[k]);
  for (std::size_t k = 0; k < power.size(); ++k) {
    input[k] = power[k];
    if (k > 0 && k + 1 < power.size()) input[std::size_t(size) - k] = power[k];
  }
  const auto lags = fft.run();
  const double zero = double(lags[0].real()) + 1e-9;
  const auto quarter = n / 4;
  // As much evidence as there is: lags that few frames share count less.
  for (std::size_t lag = 1; lag < to.size(); ++lag) {
    const auto count = n - std::int64_t(lag);
    to[lag] += weight * double(lags[lag].real()) / zero *
               std::min(1.0, double(n) / double(count + quarter));
  }
}

/// Of the sensed beats or first beats.
class SensePeriods {
public:
  explicit SensePeriods(const std::vector<float>& likelihoods)
      : m_lags(std::min(likelihoods.size(), toWhole<std::size_t>(BeatSense::kRate * 6)), 0.0) {
    addAutocorrelation(likelihoods, 1.0, m_lags);
  }
  /// At a lag in seconds, the best of its nearest frames; 0 beyond what was measured.
  [[nodiscard]] double at(double lagS) const {
    const auto i = toNearest<std::int64_t>(lagS * BeatSense::kRate);
    const std::int64_t reach = std::max<std::int64_t>(1, i / 40);
    double best = 0;
    for (auto k = std::max<std::int64_t>(1, i - reach);
         k <= i + reach && k < std::int64_t(m_lags.size()); ++k)
      best = std::max(best, m_lags[std::size_t(k)]);
    return best;
  }

private:
  std::vector<double> m_lags;
};

/// Autocorrelation of the whole and periodogram of blocks, both weighted over the groups; and of
/// what was sensed.
class Periodicity {
public:
  Periodicity(const OnsetStrength& strength, const BeatSense& sense)
      : beats(sense.beat), ones(sense.one) {
    const int n = strength.frames();
    m_lags.assign(std::size_t(std::min(n, toWhole<int>(OnsetStrength::kRate * 17))), 0.0);
    m_power.assign(kTransform / 2 + 1, 0.0);
    double weightSum = 1e-12;
    Fft fft(kTransform);
    for (std::size_t g = 0; g < OnsetStrength::kGroups; ++g) {
      const double weight = kGroupWeights[g] * std::sqrt(strength.deviation[g]);
      if (weight <= 0) continue;
      weightSum += weight;
      addAutocorrelation(strength.groups[g], weight, m_lags);
      addPeriodogram(strength.groups[g], weight, fft);
    }
    for (double& v : m_lags) v /= weightSum;
    for (double& v : m_power) v /= weightSum;
  }

  /// Autocorrelation at a lag in seconds; 0 beyond what was measured.
  [[nodiscard]] double a(double lagS) const {
    const double at = lagS * OnsetStrength::kRate;
    const std::size_t i = placeIn(at, m_lags.size() + 1);
    if (i + 2 >= m_lags.size()) return 0;
    // Played music is never exact to a frame: the best of a small neighbourhood.
    double best = 0;
    const int reach = std::max(1, toWhole<int>(at * 0.006));
    for (int k = -reach; k <= reach; ++k) {
      const auto j = toNearest<std::int64_t>(at) + k;
      if (j > 0 && j < std::int64_t(m_lags.size())) best = std::max(best, m_lags[std::size_t(j)]);
    }
    return best;
  }

  /// Root of the largest power within ±.6 % of a frequency.
  [[nodiscard]] double p(double hertz) const {
    const double perBin = OnsetStrength::kRate / kTransform;
    const auto low = toWhole<std::int64_t>(std::floor(hertz * 0.994 / perBin));
    const auto high = toWhole<std::int64_t>(std::ceil(hertz * 1.006 / perBin));
    double best = 0;
    for (auto k = std::max<std::int64_t>(1, low); k <= high && k < std::int64_t(m_power.size());
         ++k)
      best = std::max(best, m_power[std::size_t(k)]);
    return std::sqrt(best);
  }

  SensePeriods beats, ones;

private:
  void addPeriodogram(const std::vector<float>& curve, double weight, Fft& fft) {
    const int n = int(curve.size());
    const int block = std::min(n, toWhole<int>(12 * OnsetStrength::kRate));
    const int blocks = n <= block ? 1 : 1 + (n - block + block / 2 - 1) / (block / 2);
    for (int b = 0; b < blocks; ++b) {
      const int begin = std::min(b * (block / 2), n - block);
      double mean = 0, energy = 1e-9;
      for (int i = 0; i < block; ++i) mean += curve[std::size_t(begin + i)];
      mean /= block;
      auto input = fft.input();
      std::fill(input.begin(), input.end(), 0.0f);
      for (int i = 0; i < block; ++i) {
        const double v = curve[std::size_t(begin + i)] - mean;
        input[std::size_t(i)] = float(v);
        energy += v * v;
      }
      const auto bins = fft.run();
      for (std::size_t k = 0; k < bins.size(); ++k)
        m_power[k] += weight * double(std::norm(bins[k])) / (energy * block) / blocks;
    }
  }

  std::vector<double> m_lags, m_power;
};

/// Evidence at multiples of the beat, in the order of the weights in tempo_weights.h.
TempoEvidence evidenceOf(const Periodicity& h, const HitIntervals& hits, double bpm) {
  const double beat = 60 / bpm, f = bpm / 60, l = std::log(bpm / 110);
  return {l * l,
          std::max(0.0, std::log(75 / bpm)),
          std::max(0.0, std::log(bpm / 150)),
          h.a(beat),
          h.a(2 * beat),
          h.a(3 * beat),
          h.a(4 * beat),
          h.a(6 * beat),
          h.a(8 * beat),
          h.p(f / 4),
          h.p(f / 3),
          h.p(f / 2),
          h.p(f),
          h.a(beat / 2),
          h.p(2 * f),
          h.p(4 * f),
          h.p(8 * f),
          h.p(3 * f),
          h.p(6 * f),
          h.a(beat / 3),
          h.a(2 * beat / 3),
          1.0,
          h.beats.at(beat / 3),
          h.beats.at(beat / 2),
          h.beats.at(2 * beat / 3),
          h.beats.at(beat),
          h.beats.at(3 * beat / 2),
          h.beats.at(2 * beat),
          h.ones.at(2 * beat),
          h.ones.at(3 * beat),
          h.ones.at(4 * beat),
          hits.turns(beat / 2),
          hits.turns(beat),
          hits.turns(2 * beat),
          hits.turns(3 * beat),
          hits.share(HitIntervals::SnareSnare, beat),
          hits.share(HitIntervals::SnareSnare, 2 * beat),
          hits.share(HitIntervals::SnareSnare, 4 * beat),
          hits.share(HitIntervals::KickKick, beat),
          hits.share(HitIntervals::KickKick, 2 * beat),
          hits.share(HitIntervals::KickKick, 4 * beat),
          hits.share(HitIntervals::HatHat, beat / 4),
          hits.share(HitIntervals::HatHat, beat / 2),
          hits.share(HitIntervals::HatHat, beat)};
}

double dot(const TempoEvidence& weights, const TempoEvidence& evidence) {
  double sum = 0;
  for (std::size_t i = 0; i < weights.size(); ++i) sum += weights[i] * evidence[i];
  return sum;
}

double refineOn(const Periodicity& h, double bpm) {
  double best = -1, at = bpm;
  for (int i = -30; i <= 30; ++i) {
    const double f = bpm * (1 + i * 0.0005) / 60;
    const double sum = h.p(f) + h.p(2 * f) + h.p(3 * f) + h.p(4 * f) + h.p(6 * f) + h.p(8 * f);
    if (sum > best) {
      best = sum;
      at = f * 60;
    }
  }
  return at;
}

std::vector<double> proposals(const Periodicity& h) {
  std::vector<std::pair<double, double>> curve; // strength, bpm
  for (double bpm = 30; bpm < 320; bpm *= 1.005) {
    double sum = 0;
    for (int k = 1; k <= 4; ++k) sum += h.a(60.0 * k / bpm);
    curve.emplace_back(sum / 4, bpm);
  }
  std::vector<std::pair<double, double>> peaks;
  for (std::size_t i = 1; i + 1 < curve.size(); ++i)
    if (curve[i].first > curve[i - 1].first && curve[i].first >= curve[i + 1].first)
      peaks.push_back(curve[i]);
  std::sort(peaks.rbegin(), peaks.rend());
  if (peaks.size() > 6) peaks.resize(6);
  std::vector<double> out;
  for (const auto& peak : peaks)
    for (double factor : {1 / 4., 1 / 3., 1 / 2., 2 / 3., 3 / 4., 1., 4 / 3., 3 / 2., 2., 3., 4.}) {
      const double bpm = peak.second * factor;
      if (bpm >= 50 && bpm <= 215) out.push_back(refineOn(h, bpm));
    }
  return out;
}

/// The pulse at tempos from 40 to 240 BPM as the proposals see it.
std::vector<float> curveOf(const Periodicity& h) {
  std::vector<float> curve;
  for (int i = 0; i < kTempoCurve; ++i) {
    const double bpm = 40 * std::pow(6.0, double(i) / (kTempoCurve - 1));
    double sum = 0;
    for (int k = 1; k <= 4; ++k) sum += h.a(60.0 * k / bpm);
    // A picture needs no more than three digits.
    curve.push_back(float(std::round(std::clamp(sum / 4 + h.p(bpm / 60), 0.0, 2.0) * 1000) / 1000));
  }
  return curve;
}

} // namespace

TempoRanking rankTempos(const OnsetStrength& strength, const BeatSense& sense,
                        const HitIntervals& hits) {
  if (strength.frames() < toWhole<int>(OnsetStrength::kRate * 1.2)) return {};
  const Periodicity heard(strength, sense);
  std::vector<TempoCandidate> candidates;
  for (double bpm : proposals(heard)) {
    const bool known = std::any_of(candidates.begin(), candidates.end(),
                                   [&](const auto& c) { return std::abs(c.bpm / bpm - 1) < 0.01; });
    if (known) continue;
    const TempoEvidence evidence = evidenceOf(heard, hits, bpm);
    const double straight = dot(kStraightWeights, evidence),
                 triplet = dot(kTripletWeights, evidence);
    const double beat = 60 / bpm, f = bpm / 60;
    const double regular = std::max({heard.p(f), heard.p(2 * f), heard.p(3 * f), heard.p(4 * f)});
    const double again = std::max({heard.a(beat), heard.a(2 * beat), heard.a(4 * beat)});
    // Either way of dividing the beat speaks for the tempo.
    const double more = std::max(straight, triplet), less = std::min(straight, triplet);
    candidates.push_back({bpm, more + std::log1p(std::exp(less - more)), 0, regular + again,
                          regular, triplet > straight, evidence});
  }
  std::sort(candidates.begin(), candidates.end(),
            [](const auto& x, const auto& y) { return x.score > y.score; });
  double sum = 0;
  for (const auto& c : candidates) sum += std::exp(c.score - candidates.front().score);
  for (auto& c : candidates) c.likelihood = std::exp(c.score - candidates.front().score) / sum;
  return {std::move(candidates), curveOf(heard)};
}

} // namespace tuvvo
