#include "listen/pulse.h"

#include "base/convert.h"
#include "base/wide.h"

#include <algorithm>
#include <cmath>
#include <complex>

namespace tuvvo {

namespace {

using Complex = std::complex<double>;

constexpr std::array<double, OnsetStrength::kGroups> kWeights{1.2, 0.8, 1, 1, 1};
constexpr double kHopS = 0.5, kWindowS = 6;
constexpr int kPhases = 64, kRatios = 17; // ratios from −8 to +8 % of the tempo
constexpr int kEvenRatio = kRatios / 2;   // the one of the tempo itself
constexpr double kRatioStep = 0.01;
constexpr double kLeastGain = 1.40;    // following must better one phase by so much
constexpr double kShortest = 12;       // s; shorter sounds are taken as steady
constexpr double kRatioPenalty = 0.03; // of a window's best strength, for a step of tempo

struct Harmonic {
  int order;
  double weight;
};
constexpr std::array<Harmonic, 3> kStraight{{{1, 1.0}, {2, 1.0}, {4, 1.0}}};
constexpr std::array<Harmonic, 3> kTriplet{{{1, 1.0}, {3, 1.0}, {6, 0.7}}};

/// Spectra of windowed stretches at several frequencies, phases counted from the window's centre.
class Turns {
public:
  /// @param hertz  kMost at most
  explicit Turns(const std::vector<double>& hertz) : m_count(hertz.size()) {
    for (std::size_t k = 0; k < m_count; ++k) {
      m_step[k] = 2 * M_PI * hertz[k] / OnsetStrength::kRate;
      m_turnRe[k] = float(std::cos(m_step[k]));
      m_turnIm[k] = float(-std::sin(m_step[k]));
    }
  }

  [[nodiscard]] Complex value(std::size_t k) const { return {double(m_re[k]), double(m_im[k])}; }

  void hear(const std::vector<float>& curve, const std::vector<float>& window, int centre) {
    const int half = int(window.size()) / 2, n = int(curve.size());
    const int begin = std::max(0, centre - half), end = std::min(n, centre + half);
    m_re.fill(0);
    m_im.fill(0);
    for (int from = begin; from < end; from += kExact) { // set right again before rounding adds up
      for (std::size_t k = 0; k < m_count; ++k) {
        m_x[k] = float(std::cos(m_step[k] * (from - centre)));
        m_y[k] = float(-std::sin(m_step[k] * (from - centre)));
      }
      turn(curve.data() + from, window.data() + (from - centre + half),
           std::min(kExact, end - from));
    }
  }

  static constexpr std::size_t kMost = 3 * std::size_t(kRatios);

private:
  using Lanes = std::array<float, kMost>;
  static constexpr int kExact = 128;

  TUVVO_WIDE void turn(const float* curve, const float* window, int count) {
    for (int i = 0; i < count; ++i) {
      const float v = curve[i] * window[i];
      for (std::size_t k = 0; k < m_count; ++k) {
        m_re[k] += v * m_x[k];
        m_im[k] += v * m_y[k];
        const float next = m_x[k] * m_turnRe[k] - m_y[k] * m_turnIm[k];
        m_y[k] = m_x[k] * m_turnIm[k] + m_y[k] * m_turnRe[k];
        m_x[k] = next;
      }
    }
  }

  std::size_t m_count;
  std::array<double, kMost> m_step{};
  Lanes m_turnRe{}, m_turnIm{}, m_x{}, m_y{}, m_re{}, m_im{};
};

/// Strength of a lattice at every phase: how much of the curve stands on it.
std::array<float, kPhases> phasesOf(const std::array<Complex, 3>& spectrum,
                                    const std::array<Harmonic, 3>& harmonics) {
  static const auto turns = [] {
    std::array<Complex, kPhases> out;
    for (int p = 0; p < kPhases; ++p) out[std::size_t(p)] = std::polar(1.0, 2 * M_PI * p / kPhases);
    return out;
  }();
  std::array<float, kPhases> out{};
  for (std::size_t h = 0; h < 3; ++h)
    for (int p = 0; p < kPhases; ++p)
      out[std::size_t(p)] +=
          float(harmonics[h].weight *
                (turns[std::size_t(p * harmonics[h].order % kPhases)] * spectrum[h]).real());
  return out;
}

using Phases = std::array<float, kPhases>;
using Lattice = std::vector<std::array<Phases, kRatios>>;

/// A straight line: position = from + slope · time.
struct Line {
  double from = 0, slope = 0;
};

Line fitLine(const std::vector<std::pair<double, double>>& points,
             const std::vector<double>& weights) {
  double n = 1e-12, sx = 0, sy = 0, sxx = 0, sxy = 0;
  for (std::size_t i = 0; i < points.size(); ++i) {
    const auto& [x, y] = points[i];
    const double w = weights[i];
    n += w, sx += w * x, sy += w * y, sxx += w * x * x, sxy += w * x * y;
  }
  const double spread = n * sxx - sx * sx;
  if (spread <= 1e-9) return {0, 0};
  const double slope = (n * sxy - sx * sy) / spread;
  return {(sy - slope * sx) / n, slope};
}

/// Lattice strength when a beat stands at a position (in beats) from the hop's own time.
double strengthAt(const Phases& phases, double position) {
  const double beats = -position; // the next lattice point lies where the position is whole
  const double place = (beats - std::floor(beats)) * kPhases;
  const auto low = toWhole<std::size_t>(place) % kPhases;
  const double part = place - std::floor(place);
  return double(phases[low]) * (1 - part) + double(phases[(low + 1) % kPhases]) * part;
}

double strengthAlong(const Lattice& lattice, const Line& line, std::size_t hops = ~std::size_t(0)) {
  double sum = 0;
  for (std::size_t n = 0; n < std::min(hops, lattice.size()); ++n)
    sum += strengthAt(lattice[n][kEvenRatio], line.from + line.slope * double(n) * kHopS);
  return sum;
}

/// From the tempo's best phase on, the phase of every window near the last one's, and the straight
/// line through them, each window counting by its strength.
Line steadyLine(const Lattice& lattice, double f) {
  // The first two minutes say where to begin: every tempo within 1 %, so close together that none
  // slips by a tenth of a beat.
  const std::size_t hops = std::min<std::size_t>(lattice.size(), 240);
  const double beats = double(hops) * kHopS * f;
  const double step = std::max(0.0004, 0.1 / std::max(1.0, beats));
  Line best{0, f};
  double most = -1e18;
  for (double off = -0.01; off <= 0.01 + 1e-9; off += step)
    for (int p = 0; p < kPhases; ++p) {
      const Line line{-double(p) / kPhases, f * (1 + off)};
      const double sum = strengthAlong(lattice, line, hops);
      if (sum > most) {
        most = sum;
        best = line;
      }
    }
  for (int pass = 0; pass < 3; ++pass) {
    std::vector<std::pair<double, double>> points;
    std::vector<double> weights;
    double off = 0;
    for (std::size_t n = 0; n < lattice.size(); ++n) {
      const auto& phases = lattice[n][kEvenRatio];
      const double at = double(n) * kHopS, expected = best.from + best.slope * at + off;
      double found = 0, strongest = -1e18;
      constexpr int reach = 6; // of 64: a tenth of a beat either way
      for (int k = -reach; k <= reach; ++k) {
        const double v = strengthAt(phases, expected + double(k) / kPhases);
        if (v > strongest) {
          strongest = v;
          found = k;
        }
      }
      const double a = strengthAt(phases, expected + (found - 1) / kPhases),
                   c = strengthAt(phases, expected + (found + 1) / kPhases);
      const double bend = a - 2 * strongest + c;
      if (bend < 0) found += std::clamp(0.5 * (a - c) / bend, -0.5, 0.5);
      if (strongest <= 0) continue;
      off += 0.5 * found / kPhases;
      points.emplace_back(at, expected + found / kPhases);
      weights.push_back(strongest * strongest);
    }
    const Line line = fitLine(points, weights);
    if (points.size() < 4 || std::abs(line.slope / f - 1) > 0.02) break;
    if (strengthAlong(lattice, line) < strengthAlong(lattice, best)) break;
    best = line;
  }
  return best;
}

double deviationFromLine(const std::vector<std::pair<double, double>>& knots) {
  const Line line = fitLine(knots, std::vector<double>(knots.size(), 1.0));
  double square = 0;
  for (const auto& [x, y] : knots)
    square += std::pow((y - line.from - line.slope * x) / line.slope, 2);
  return std::sqrt(square / double(knots.size()));
}

} // namespace

double Pulse::beatsAt(double timeS) const {
  auto next = std::upper_bound(knots.begin() + 1, knots.end() - 1, std::pair(timeS, 1e18));
  const auto& [t0, b0] = *(next - 1);
  const auto& [t1, b1] = *next;
  return b0 + (timeS - t0) / (t1 - t0) * (b1 - b0);
}

double Pulse::timeOf(double beats) const {
  auto next = std::upper_bound(knots.begin() + 1, knots.end() - 1, beats,
                               [](double b, const auto& knot) { return b < knot.second; });
  const auto& [t0, b0] = *(next - 1);
  const auto& [t1, b1] = *next;
  return t0 + (beats - b0) / (b1 - b0) * (t1 - t0);
}

namespace {

/// How strong the pulse is at each hop, for each ratio of the tempo and each phase.
Lattice latticeOf(const std::vector<float>& curve, double f, bool triplet, int hops, bool follow) {
  const auto& harmonics = triplet ? kTriplet : kStraight;
  const int half = toWhole<int>(kWindowS / 2 * OnsetStrength::kRate);
  std::vector<float> window(std::size_t(2 * half));
  for (std::size_t i = 0; i < window.size(); ++i)
    window[i] = float(0.5 - 0.5 * std::cos(2 * M_PI * (double(i) + 0.5) / double(window.size())));
  const int first = follow ? 0 : kEvenRatio, last = follow ? kRatios - 1 : kEvenRatio;
  std::vector<double> hertz;
  for (int r = first; r <= last; ++r)
    for (const Harmonic& harmonic : harmonics)
      hertz.push_back(f * (1 + (r - kEvenRatio) * kRatioStep) * harmonic.order);
  Turns turns(hertz);
  Lattice lattice(static_cast<std::size_t>(hops));
  for (int n = 0; n < hops; ++n) {
    turns.hear(curve, window, toWhole<int>(n * kHopS * OnsetStrength::kRate));
    for (int r = first; r <= last; ++r) {
      const auto at = std::size_t(3 * (r - first));
      lattice[std::size_t(n)][std::size_t(r)] =
          phasesOf({turns.value(at), turns.value(at + 1), turns.value(at + 2)}, harmonics);
    }
  }
  return lattice;
}

/// A way over ratios and phases, hop by hop, and how strong the pulse is along it.
struct Way {
  std::vector<std::pair<int, int>> steps; ///< ratio, phase
  double strength = 0;
};

/// The best one (Viterbi): another ratio costs, another phase costs less.
Way bestWay(const Lattice& lattice, double f) {
  const auto hops = int(lattice.size());
  float strongest = 0;
  for (const auto& hop : lattice)
    for (float v : hop[kEvenRatio]) strongest = std::max(strongest, v);
  const float penalty = float(kRatioPenalty) * strongest;
  Lattice score(lattice);
  std::vector<std::array<std::array<std::int16_t, kPhases>, kRatios>> from(lattice.size());
  for (int n = 1; n < hops; ++n)
    for (int r = 0; r < kRatios; ++r) {
      // Phase here means where the next lattice point lies: it falls by the beats that pass.
      const double passed = kHopS * f * (1 + (r - kEvenRatio) * kRatioStep) * kPhases;
      const int shift = toNearest<int>(passed) % kPhases;
      for (int p = 0; p < kPhases; ++p) {
        float best = -1e30f;
        std::int16_t came = 0;
        for (int dr = -1; dr <= 1; ++dr) {
          const int r0 = r + dr;
          if (r0 < 0 || r0 >= kRatios) continue;
          for (int dp = -1; dp <= 1; ++dp) {
            const int p0 = (p + shift + dp + kPhases) % kPhases;
            const float v = score[std::size_t(n - 1)][std::size_t(r0)][std::size_t(p0)] -
                            (dr != 0 ? penalty : 0) - (dp != 0 ? 0.3f * penalty : 0);
            if (v > best) {
              best = v;
              came = std::int16_t(r0 * kPhases + p0);
            }
          }
        }
        score[std::size_t(n)][std::size_t(r)][std::size_t(p)] += best;
        from[std::size_t(n)][std::size_t(r)][std::size_t(p)] = came;
      }
    }
  int r = 0, p = 0;
  float best = -1e30f;
  for (int i = 0; i < kRatios * kPhases; ++i)
    if (const float v = score.back()[std::size_t(i / kPhases)][std::size_t(i % kPhases)];
        v > best) {
      best = v;
      r = i / kPhases;
      p = i % kPhases;
    }
  Way way{std::vector<std::pair<int, int>>(lattice.size()), double(best)};
  for (int n = hops - 1; n >= 0; --n) {
    way.steps[std::size_t(n)] = {r, p};
    const int came = from[std::size_t(n)][std::size_t(r)][std::size_t(p)];
    r = came / kPhases;
    p = came % kPhases;
  }
  return way;
}

/// Time and beats of each hop along a way.
std::vector<std::pair<double, double>> knotsAlong(const Way& way, double f) {
  std::vector<std::pair<double, double>> knots;
  double position = -double(way.steps[0].second) / kPhases;
  knots.emplace_back(0.0, position);
  for (std::size_t n = 1; n < way.steps.size(); ++n) {
    const double expected =
        position + kHopS * f * (1 + (way.steps[n].first - kEvenRatio) * kRatioStep);
    const double fraction = -double(way.steps[n].second) / kPhases;
    position = std::round(expected - fraction) + fraction;
    knots.emplace_back(double(n) * kHopS, position);
  }
  return knots;
}

} // namespace

Pulse followPulse(const OnsetStrength& strength, double bpm, bool triplet) {
  std::array<double, OnsetStrength::kGroups> weights{};
  for (std::size_t g = 0; g < weights.size(); ++g)
    weights[g] = kWeights[g] * std::sqrt(strength.deviation[g]);
  auto curve = strength.mixed(weights);
  double mean = 0;
  for (float v : curve) mean += double(v) / double(curve.size());
  for (float& v : curve) v -= float(mean);
  const double f = bpm / 60, duration = strength.frames() / OnsetStrength::kRate;
  const int hops = std::max(1, toWhole<int>(duration / kHopS) + 1);
  const bool follow = duration >= kShortest;
  const Lattice lattice = latticeOf(curve, f, triplet, hops, follow);

  // One tempo and phase for the whole: the lattice's phase is tracked from window to window, and a
  // straight line laid through it.
  Pulse out;
  out.triplet = triplet;
  const Line line = steadyLine(lattice, f);
  out.bpm = line.slope * 60;
  const double end = std::max(1.0, duration);
  out.knots = {{0.0, line.from}, {end, line.from + end * line.slope}};
  if (!follow) return out;
  const double one = strengthAlong(lattice, line);
  const Way way = bestWay(lattice, f);
  out.gain = one > 0 ? way.strength / one : 2.0;
  if (out.gain < kLeastGain) return out;
  out.steady = false;
  out.knots = knotsAlong(way, f);
  out.bpm = fitLine(out.knots, std::vector<double>(out.knots.size(), 1.0)).slope * 60;
  out.driftMs = deviationFromLine(out.knots) * 1000;
  return out;
}

} // namespace tuvvo
