#include "listen/tempo.h"

#include "listen/onset_strength.h"
#include "listen/spectrum.h"
#include "listen/tempo_ranking.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kFollowedBetter = 1.4;     // strength a beat of followed beats over even ones
constexpr double kLeastOnsetsASecond = 0.6; // fewer than that carry no pulse
constexpr double kLeastFelt = 40, kMostFelt = 240; // BPM; half and double are offered inside these
constexpr std::array<double, OnsetStrength::kGroups> kBeatWeights{2.0, 1.0, 1.2, 0.8, 0.6};

/// Beats by dynamic programming: strong onsets, evenly apart (Ellis 2007).
std::vector<double> followBeats(const std::vector<float>& curve, double period) {
  const int n = int(curve.size());
  const double lag = period * OnsetStrength::kRate, tightness = 60;
  std::vector<float> score(std::size_t(n), 0.0f);
  std::vector<int> from(std::size_t(n), -1);
  std::vector<float> cost;
  const int near = std::max(1, int(lag * 0.6)), far = int(lag * 1.7);
  for (int d = near; d <= far; ++d) {
    const double ratio = std::log(d / lag);
    cost.push_back(float(-tightness * ratio * ratio));
  }
  for (int t = 0; t < n; ++t) {
    float best = 0;
    for (int d = near; d <= std::min(far, t); ++d) {
      const float v = score[std::size_t(t - d)] + cost[std::size_t(d - near)];
      if (v > best) {
        best = v;
        from[std::size_t(t)] = t - d;
      }
    }
    score[std::size_t(t)] = curve[std::size_t(t)] + best;
  }
  int at = n - 1;
  for (int t = std::max(0, n - int(lag)); t < n; ++t)
    if (score[std::size_t(t)] > score[std::size_t(at)]) at = t;
  std::vector<double> beats;
  for (; at >= 0; at = from[std::size_t(at)]) beats.push_back(at / OnsetStrength::kRate);
  std::reverse(beats.begin(), beats.end());
  return beats;
}

const Onset* nearestOnset(const std::vector<Onset>& onsets, double at, double within) {
  const Onset* best = nullptr;
  for (const auto& onset : onsets)
    if (std::abs(onset.at.value - at) <= within) {
      within = std::abs(onset.at.value - at);
      best = &onset;
    }
  return best;
}

/// The phase of a steady lattice: the folded curve's best place, then the median of the onsets
/// that stand near it.
double latticePhase(const std::vector<float>& curve, const std::vector<Onset>& onsets,
                    double period) {
  constexpr int bins = 192;
  std::vector<double> folded(bins, 0.0);
  for (std::size_t i = 0; i < curve.size(); ++i) {
    const double phase = double(i) / OnsetStrength::kRate / period;
    folded[std::size_t((phase - std::floor(phase)) * bins) % bins] += curve[i];
  }
  const int reach = std::max(1, int(0.012 / period * bins));
  int place = 0;
  double best = -1;
  for (int b = 0; b < bins; ++b) {
    double sum = 0;
    for (int k = -reach; k <= reach; ++k) sum += folded[std::size_t((b + k + bins) % bins)];
    if (sum > best) {
      best = sum;
      place = b;
    }
  }
  const double phase = (place + 0.5) / bins * period;
  std::vector<float> offsets;
  for (const auto& onset : onsets) {
    const double beats = (onset.at.value - phase) / period;
    const double off = (beats - std::round(beats)) * period;
    if (std::abs(off) < std::min(0.035, 0.1 * period)) offsets.push_back(float(off));
  }
  return phase + (offsets.size() >= 2 ? double(medianOf(offsets)) : 0.0);
}

/// Which beat of the bar comes first, by where the low, middle and high energy falls: lows on one,
/// middles and highs on two and four.
int downbeatRotation(const OnsetStrength& strength, const std::vector<double>& beats) {
  if (beats.size() < 4) return 0;
  std::array<std::array<double, 3>, 4> bar{};
  std::array<double, 3> mean{1e-9, 1e-9, 1e-9};
  for (std::size_t i = 0; i < beats.size(); ++i) {
    if (beats[i] < 0.06 && beats.size() > 8) continue; // silence before the start leaks the answer
    const int centre = int(std::lround(beats[i] * OnsetStrength::kRate));
    std::array<float, 3> peak{};
    for (int t = std::max(0, centre - 4); t <= std::min(strength.frames() - 1, centre + 4); ++t) {
      const auto k = std::size_t(t);
      peak[0] = std::max(peak[0], strength.groups[0][k] + 0.5f * strength.groups[1][k]);
      peak[1] = std::max(peak[1], strength.groups[2][k] + strength.groups[3][k]);
      peak[2] = std::max(peak[2], strength.groups[4][k]);
    }
    for (std::size_t b = 0; b < 3; ++b) {
      bar[i % 4][b] += double(peak[b]);
      mean[b] += double(peak[b]) / 4;
    }
  }
  static constexpr std::array<std::array<double, 3>, 4> pattern{
      {{1.0, -0.5, -0.1}, {-0.5, 0.6, 0.1}, {0.1, -0.5, -0.1}, {-0.6, 0.4, 0.1}}};
  int best = 0;
  double bestScore = -1e9;
  for (int rotation = 0; rotation < 4; ++rotation) {
    double score = rotation == 0 ? 0.05 : 0.0; // with nothing to tell, begin at the beginning
    for (std::size_t beat = 0; beat < 4; ++beat)
      for (std::size_t b = 0; b < 3; ++b)
        score += pattern[beat][b] *
                 std::log(0.15 + bar[(beat + std::size_t(rotation)) % 4][b] / mean[b]);
    if (score > bestScore) {
      bestScore = score;
      best = rotation;
    }
  }
  return best;
}

/// How much onset strength the beats stand on, a beat, at best within 25 ms.
double support(const std::vector<float>& curve, const std::vector<double>& beats) {
  double sum = 0;
  for (double beat : beats) {
    const int centre = int(std::lround(beat * OnsetStrength::kRate));
    float most = 0;
    for (int t = std::max(0, centre - 4); t <= std::min(int(curve.size()) - 1, centre + 4); ++t)
      most = std::max(most, curve[std::size_t(t)]);
    sum += double(most);
  }
  return sum / double(std::max<std::size_t>(1, beats.size()));
}

std::vector<double> evenBeats(double phase, double period, double duration) {
  std::vector<double> beats;
  for (double at = phase - std::floor((phase + 0.03) / period) * period; at < duration - 0.02;
       at += period)
    beats.push_back(std::max(0.0, at));
  return beats;
}

/// Whole bars between the file's ends, something begins at the first frame, and the lattice from
/// there is founded about as well as the best one: then the length, which is exact, gives the
/// tempo.
std::optional<LoopHeard> exactLoop(const std::vector<float>& curve, double bpm, double phase,
                                   double duration, double firstOnset) {
  const double beats = duration * bpm / 60;
  const double bars = std::round(beats / 4);
  if (bars < 1 || bars > 64 || std::abs(beats - 4 * bars) > (duration < 6 ? 0.06 : 0.08) ||
      firstOnset > (duration < 6 ? 0.020 : 0.030))
    return std::nullopt;
  const double period = duration / (4 * bars);
  if (support(curve, evenBeats(0, period, duration)) <
      0.35 * support(curve, evenBeats(phase, period, duration))) // off-beats may be the louder ones
    return std::nullopt;
  return LoopHeard{int(bars), true};
}

struct LineFit {
  double intercept, slope, deviation;
};

LineFit fitLine(const std::vector<double>& y) {
  const double n = double(y.size());
  double sx = 0, sy = 0, sxx = 0, sxy = 0;
  for (std::size_t i = 0; i < y.size(); ++i) {
    sx += double(i);
    sy += y[i];
    sxx += double(i) * double(i);
    sxy += double(i) * y[i];
  }
  const double slope = (n * sxy - sx * sy) / (n * sxx - sx * sx);
  const double intercept = (sy - slope * sx) / n;
  double square = 0;
  for (std::size_t i = 0; i < y.size(); ++i) {
    const double off = y[i] - intercept - slope * double(i);
    square += off * off;
  }
  return {intercept, slope, std::sqrt(square / n)};
}

/// Tempo and phase of the onsets that stand near a steady lattice of sixteenths, by least squares.
void fitLattice(const std::vector<Onset>& onsets, double& bpm, double& phase) {
  for (int pass = 0; pass < 3; ++pass) {
    const double line = 15 / bpm;
    double n = 0, sx = 0, sy = 0, sxx = 0, sxy = 0;
    for (const auto& onset : onsets) {
      const double k = std::round((onset.at.value - phase) / line);
      const double off = onset.at.value - phase - k * line;
      if (std::abs(off) > 0.18 * line) continue;
      n += 1;
      sx += k;
      sy += off;
      sxx += k * k;
      sxy += k * off;
    }
    const double spread = n * sxx - sx * sx;
    if (n < 8 || spread <= 0) return;
    const double slope = (n * sxy - sx * sy) / spread;
    if (std::abs(slope) > 0.004 * line) return; // that is another tempo, not a finer one
    phase += (sy - slope * sx) / n;
    bpm = 15 / (line + slope);
  }
}

std::vector<TempoAlternative> alternativesOf(double bpm) {
  std::vector<TempoAlternative> out;
  if (bpm / 2 >= kLeastFelt) out.push_back({Bpm(bpm / 2), "half"});
  if (bpm * 2 <= kMostFelt) out.push_back({Bpm(bpm * 2), "double"});
  return out;
}

} // namespace

TimeHeard hearTime(const Sound& sound, const std::vector<Onset>& onsets, JobContext& job) {
  TimeHeard heard;
  const double duration = sound.duration().value;
  if (onsets.size() < 4 || duration < 1.2) return heard;
  if (double(onsets.size()) < kLeastOnsetsASecond * duration) return heard;
  const OnsetStrength strength = onsetStrength(sound);
  if (job.cancelled()) return heard;
  const auto candidates = rankTempos(strength);
  if (candidates.empty() || candidates[0].salience < 0.12) return heard;

  double bpm = refineTempo(strength, candidates[0].bpm);
  const auto curve = strength.mixed(kBeatWeights);
  std::vector<double> followed = followBeats(curve, 60 / bpm);
  for (double& beat : followed)
    if (const Onset* onset = nearestOnset(onsets, beat, 0.04)) beat = onset->at.value;

  TempoHeard tempo;
  double phase = latticePhase(curve, onsets, 60 / bpm);
  heard.loop = exactLoop(curve, bpm, phase, duration, onsets.front().at.value);
  if (!heard.loop) fitLattice(onsets, bpm, phase);
  if (followed.size() >= 8) {
    // Following always finds something; it is believed where the beats it found are both off the
    // even lattice and plainly better founded than that lattice is.
    const LineFit line = fitLine(followed);
    const double even = support(curve, evenBeats(phase, 60 / bpm, duration));
    tempo.drift = Milliseconds(line.deviation * 1000);
    tempo.steady = line.deviation < std::max(0.012, 0.02 * line.slope) ||
                   support(curve, followed) < kFollowedBetter * even;
    if (!tempo.steady) {
      bpm = 60 / line.slope;
      heard.loop.reset();
    }
  }
  if (tempo.steady) tempo.drift = Milliseconds(0);
  if (heard.loop) {
    bpm = 60.0 * 4 * heard.loop->bars / duration;
    phase = 0;
  }
  const double margin = candidates.size() > 1 ? candidates[0].score - candidates[1].score : 4.0;
  tempo.bpm = Bpm(bpm);
  tempo.confidence = std::clamp(1.0 / (1.0 + std::exp(-0.8 * margin)), 0.05, 0.99) *
                     std::clamp(candidates[0].salience * 2.5, 0.2, 1.0);
  tempo.alternatives = alternativesOf(bpm);

  std::vector<double> beats;
  if (tempo.steady) {
    beats = evenBeats(phase, 60 / bpm, duration);
  } else {
    beats = followed;
  }
  const int first = heard.loop ? 0 : downbeatRotation(strength, beats);
  for (std::size_t i = 0; i < beats.size(); ++i) {
    heard.beats.push_back(Seconds(beats[i]));
    if (int(i % 4) == first) heard.downbeats.push_back(Seconds(beats[i]));
  }
  heard.tempo = std::move(tempo);
  return heard;
}

} // namespace tuvvo
