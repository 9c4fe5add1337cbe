#include "listen/tempo.h"

#include "base/convert.h"
#include "listen/bars.h"
#include "listen/tempo_ranking.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kShortestPulse = 1.2; // s; less holds no pulse
constexpr double kLeastPulse = 0.23;   // autocorrelation and periodogram together
constexpr double kFullPulse = 0.625;   // from here on a pulse is one
constexpr double kSameTempo = 0.04;    // common practice for "the right level"
constexpr double kLeastPeriodogram = 0.07;
constexpr double kLeastFelt = 40, kMostFelt = 240; // BPM; half and double are offered inside these
constexpr double kStrengthLateS = 0.004; // onset strength peaks this long after the attack
constexpr std::array<double, OnsetStrength::kGroups> kBeatWeights{2.0, 1.0, 1.2, 0.8, 0.6};

/// How much onset strength even beats stand on, a beat, at best within 25 ms.
double support(const std::vector<float>& curve, double firstS, double period, double duration) {
  double sum = 0;
  int n = 0;
  for (double beat = firstS; beat < duration; beat += period, ++n) {
    const int centre = toNearest<int>(beat * OnsetStrength::kRate);
    float most = 0;
    for (int t = std::max(0, centre - 4); t <= std::min(int(curve.size()) - 1, centre + 4); ++t)
      most = std::max(most, curve[std::size_t(t)]);
    sum += double(most);
  }
  return sum / std::max(1, n);
}

/// Whole bars between the file's ends, something begins at the first frame, and a lattice from
/// there is founded about as well as the best one: then the length, which is exact, gives the
/// tempo.
std::optional<LoopHeard> exactLoop(const OnsetStrength& strength, const Pulse& pulse,
                                   double duration, double firstSound, int meter) {
  const double beats = duration * pulse.bpm / 60;
  const double bars = std::round(beats / meter);
  if (!pulse.steady || bars < 1 || bars > 64 ||
      std::abs(beats - meter * bars) > (duration < 6 ? 0.06 : 0.08) ||
      firstSound > (duration < 6 ? 0.020 : 0.030))
    return std::nullopt;
  const auto curve = strength.mixed(kBeatWeights);
  const double period = duration / (meter * bars), phase = pulse.timeOf(0);
  const double lattice = phase - std::floor(phase / period) * period;
  if (support(curve, 0, period, duration) < 0.35 * support(curve, lattice, period, duration))
    return std::nullopt;
  return LoopHeard{toWhole<int>(bars), true};
}

std::vector<TempoAlternative> alternativesOf(double bpm, const std::vector<TempoCandidate>& all) {
  std::vector<TempoAlternative> out;
  if (bpm / 2 >= kLeastFelt) out.push_back({Bpm(bpm / 2), "half"});
  if (bpm * 2 <= kMostFelt) out.push_back({Bpm(bpm * 2), "double"});
  // Other readings that the evidence also bears, nearest in score first.
  for (const auto& candidate : all) {
    if (out.size() >= 4 || all[0].score - candidate.score > 1.5) break;
    const double ratio = candidate.bpm / all[0].bpm;
    for (const auto& [wanted, name] : {std::pair{1.5, "dotted"},
                                       {2 / 3.0, "dotted"},
                                       {3.0, "triplet"},
                                       {1 / 3.0, "triplet"},
                                       {4 / 3.0, "triplet"},
                                       {0.75, "triplet"}})
      if (std::abs(ratio / wanted - 1) < 0.02) out.push_back({Bpm(bpm * wanted), name});
  }
  return out;
}

/// How likely it is that the tempo is the best candidate's: the fit made the likelihoods as sure as
/// they are right (fit_tempo.py). What nearly is its tempo speaks for it; a weak pulse is hardly
/// one.
double sureness(const std::vector<TempoCandidate>& candidates) {
  const TempoCandidate& best = candidates[0];
  double sum = 0;
  for (const auto& candidate : candidates)
    if (std::abs(candidate.bpm / best.bpm - 1) < kSameTempo) sum += candidate.likelihood;
  return std::clamp(sum, 0.05, 0.99) * std::clamp(best.pulse / kFullPulse, 0.2, 1.0);
}

} // namespace

TimeHeard analyseTime(const OnsetStrength& strength, const BeatSense& sense,
                      const HitIntervals& hits, const Harmony& harmony, Seconds duration,
                      Seconds firstSound, JobContext& job) {
  TimeHeard heard;
  if (duration.value < kShortestPulse) return heard;
  auto [candidates, curve] = rankTempos(strength, sense, hits);
  if (job.cancelled() || candidates.empty()) return heard;
  const auto& best = candidates[0];
  if (best.pulse < kLeastPulse || best.periodogram < kLeastPeriodogram) return heard;

  Pulse pulse = followPulse(strength, best.bpm, best.triplet);
  if (job.cancelled()) return heard;
  std::optional<BarFinder> bars;
  bars.emplace(strength, sense, harmony, pulse, duration);
  heard.meter = bars->meter();
  // Whole bars of what the meter seems to be, or else of four: the length says what it cannot be.
  for (int meter : {heard.meter, 4}) {
    heard.loop = exactLoop(strength, pulse, duration.value, firstSound.value, meter);
    if (!heard.loop) continue;
    const double beats = double(meter) * heard.loop->bars;
    pulse.bpm = 60.0 * beats / duration.value;
    pulse.knots = {{0.0, 0.0}, {duration.value, beats}};
    heard.meter = meter;
    break;
  }
  if (heard.loop) bars.emplace(strength, sense, harmony, pulse, duration); // on the exact lattice
  heard.compound = bars->compound();
  const double firstDownbeat = bars->firstDownbeat(heard.meter, heard.loop.has_value());

  const double late = heard.loop ? 0.0 : kStrengthLateS; // an exact loop's lattice is its length's
  const double first = pulse.beatsAt(-0.03) - firstDownbeat;
  for (long beat = toWhole<long>(std::ceil(first));; ++beat) {
    const double at = pulse.timeOf(double(beat) + firstDownbeat) - late;
    if (at >= duration.value - 0.02) break;
    heard.beats.push_back(Seconds(std::max(0.0, at)));
    if (beat % heard.meter == 0) heard.downbeats.push_back(heard.beats.back());
  }
  TempoHeard tempo;
  tempo.bpm = Bpm(pulse.bpm);
  tempo.steady = pulse.steady;
  tempo.drift = Milliseconds(pulse.driftMs);
  tempo.confidence = sureness(candidates);
  tempo.alternatives = alternativesOf(pulse.bpm, candidates);
  tempo.curve = std::move(curve);
  heard.tempo = std::move(tempo);
  return heard;
}

} // namespace tuvvo
