#include "beat/played_tempo.h"

#include <algorithm>
#include <cmath>
#include <complex>

namespace tuvvo {

namespace {

constexpr double kShortestLine = 0.085, kLongestLine = 1.0; ///< seconds between two lines
constexpr double kSlowest = 55, kFastest = 190;             ///< beats a minute
constexpr double kUsualBpm = 100, kSpreadOctaves = 0.55; ///< of tempi (common practice, no source)
constexpr double kHolds = 0.55;                          ///< resonance under which there is no grid

/// How well the hits stand on lines of a period, 0 to 1, and where the lines lie.
struct Resonance {
  double strength = 0, phase = 0;
};
Resonance resonance(const std::vector<PlayedHit>& hits, double period) {
  std::complex<double> sum = 0;
  for (const auto& hit : hits) sum += std::polar(1.0, 2 * M_PI * hit.at.value / period);
  const double phase = std::arg(sum) / (2 * M_PI) * period;
  return {std::abs(sum) / double(hits.size()), phase};
}

/// The straight line of least squares through the hits' times over the numbers of their lines.
std::pair<double, double> fitted(const std::vector<PlayedHit>& hits, double period, double phase) {
  for (int round = 0; round < 4; ++round) {
    double n = 0, k = 0, t = 0, kk = 0, kt = 0;
    for (const auto& hit : hits) {
      const double line = std::round((hit.at.value - phase) / period);
      n += 1, k += line, t += hit.at.value, kk += line * line, kt += line * hit.at.value;
    }
    const double d = n * kk - k * k;
    if (d <= 0) break;
    period = (n * kt - k * t) / d;
    phase = (t - period * k) / n;
  }
  return {period, phase};
}

double likely(double bpm) {
  const double octaves = std::log2(bpm / kUsualBpm) / kSpreadOctaves;
  return std::exp(-0.5 * octaves * octaves);
}

} // namespace

std::optional<PlayedTempo> tempoOfHits(const std::vector<PlayedHit>& hits) {
  if (hits.size() < 4 || hits.back().at.value - hits.front().at.value < 1) return std::nullopt;
  // The lines: the longest period on which nearly all of them stand. Steps are fine enough that the
  // last hit moves by a twentieth of a line.
  const double span = hits.back().at.value - hits.front().at.value;
  struct Candidate {
    double period, phase, strength;
  };
  std::vector<Candidate> candidates;
  double best = 0;
  for (double period = kShortestLine; period < kLongestLine;) {
    const Resonance r = resonance(hits, period);
    candidates.push_back({period, r.phase, r.strength});
    best = std::max(best, r.strength);
    period += std::min(0.002, period * period / span / 20);
  }
  // A longer line needs a steadier hand for the same share of itself: what 10 ms of jitter leave at
  // each period is the measure, so that neither the finest nor the coarsest wins by itself.
  const auto share = [](const Candidate& c) {
    const double left = std::exp(-2 * std::pow(M_PI * 0.010 / c.period, 2));
    return c.strength / left;
  };
  double most = 0;
  for (const auto& c : candidates) most = std::max(most, std::min(1.0, share(c)));
  const Candidate* lines = nullptr;
  for (std::size_t i = 1; i + 1 < candidates.size(); ++i) {
    const auto& c = candidates[i];
    const bool peak =
        c.strength >= candidates[i - 1].strength && c.strength >= candidates[i + 1].strength;
    if (peak && share(c) >= 0.95 * most) lines = &c; // the last is the longest
  }
  if (!lines || lines->strength < kHolds) return std::nullopt;
  const auto [period, phase] = fitted(hits, lines->period, lines->phase);
  if (!(period > 0.5 * kShortestLine)) return std::nullopt;

  // The beat: so many lines, likeliest by tempo, by where the harder hits stand, and by the first
  // hit standing on one.
  struct Beat {
    double bpm, weight;
    int lines;
  };
  std::vector<Beat> beats;
  const double first = std::round((hits.front().at.value - phase) / period);
  double loud = 0;
  for (const auto& hit : hits) loud += hit.velocity;
  for (int count : {1, 2, 3, 4, 6, 8, 12}) {
    const double bpm = 60 / (period * count);
    if (bpm < kSlowest || bpm > kFastest) continue;
    double on = 0;
    for (const auto& hit : hits) {
      const double line = std::round((hit.at.value - phase) / period) - first;
      if (std::fmod(std::abs(line), count) < 0.5) on += hit.velocity;
    }
    // More weight on the beat than chance would put there.
    const double accent = on / loud * std::sqrt(double(count));
    const double threes = count % 3 == 0 ? 0.6 : 1; // fours are commoner (common practice)
    beats.push_back({bpm, likely(bpm) * std::sqrt(accent) * threes, count});
  }
  if (beats.empty()) return std::nullopt;
  std::stable_sort(beats.begin(), beats.end(),
                   [](const Beat& a, const Beat& b) { return a.weight > b.weight; });
  PlayedTempo out;
  out.bpm = Bpm(beats.front().bpm);
  out.downbeat = Seconds(phase + period * first);
  out.steadiness = lines->strength;
  for (std::size_t i = 1; i < beats.size() && i < 4; ++i)
    out.otherwise.push_back(Bpm(beats[i].bpm));
  return out;
}

} // namespace tuvvo
