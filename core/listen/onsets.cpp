#include "listen/onsets.h"

#include "audio/resample.h"
#include "listen/spectrum.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr int kFlux = 1024, kFluxHop = 128, kFluxBands = 24;
constexpr double kBladeS = 0.0005; // a blade goes in this long before the attack
constexpr int kFine = 256, kFineHop = 64, kFineBands = 8;

std::vector<double> logEdges(double from, double to, int bands) {
  std::vector<double> edges;
  for (int i = 0; i < bands + 2; ++i)
    edges.push_back(from * std::pow(to / from, double(i) / (bands + 1)));
  return edges;
}

/// ln(1 + B/ε) of band magnitudes, ε = max(floor, 2 × the band's 10th percentile).
Matrix logBands(const std::vector<float>& mono, double rate, int size, int hop, int bands) {
  const BandSummer summer(logEdges(40, std::min(16000.0, rate * 0.45), bands), size, rate);
  Matrix out(int((mono.size() + std::size_t(hop) - 1) / std::size_t(hop)), bands);
  forEachFrame(mono, size, hop, [&](int t, std::span<const float> magnitudes) {
    summer.sum(magnitudes, out.row(t));
  });
  std::vector<float> column(static_cast<std::size_t>(out.rows));
  for (int b = 0; b < bands; ++b) {
    for (int t = 0; t < out.rows; ++t) column[std::size_t(t)] = out.at(t, b);
    const auto tenth = column.begin() + std::ptrdiff_t(column.size() / 10);
    std::nth_element(column.begin(), tenth, column.end());
    const float epsilon = std::max(0.001f, 2.0f * *tenth);
    for (int t = 0; t < out.rows; ++t) out.at(t, b) = std::log1p(out.at(t, b) / epsilon);
  }
  return out;
}

/// Mean over bands of what rose above the maximum of three bands, four frames before.
std::vector<float> superflux(const Matrix& bands) {
  std::vector<float> flux(std::size_t(bands.rows), 0.0f);
  for (int t = 0; t < bands.rows; ++t) {
    float total = 0;
    for (int b = 0; b < bands.columns; ++b) {
      float before = 0; // silence before the start
      if (t >= 4)
        for (int k = std::max(0, b - 1); k <= std::min(bands.columns - 1, b + 1); ++k)
          before = std::max(before, bands.at(t - 4, k));
      total += std::max(0.0f, bands.at(t, b) - before);
    }
    flux[std::size_t(t)] = total / float(bands.columns);
  }
  return flux;
}

std::vector<int> fluxPeaks(const std::vector<float>& flux, double hopS, float threshold,
                           Milliseconds gap) {
  const int n = int(flux.size());
  const int reach = std::max(1, int(std::lround(gap.value / 1000.0 / hopS)));
  const int wide = int(std::lround(0.4 / hopS));
  std::vector<int> peaks;
  std::vector<float> around;
  for (int t = 0; t < n; ++t) {
    const float v = flux[std::size_t(t)];
    if (v < threshold) continue;
    const auto begin = flux.begin() + std::max(0, t - reach);
    const auto end = flux.begin() + std::min(n, t + reach + 1);
    if (v < *std::max_element(begin, end)) continue;
    around.assign(flux.begin() + std::max(0, t - wide), flux.begin() + std::min(n, t + wide + 1));
    if (v < threshold + medianOf(around)) continue;
    if (!peaks.empty() && t - peaks.back() < reach) continue;
    peaks.push_back(t);
  }
  return peaks;
}

/// How much the level of fine bands stays up after a place, against before it (natural log).
float lastingRise(const Matrix& fine, double atS, double rate) {
  const int t = int(std::lround(atS * rate / kFineHop));
  std::vector<float> after, before;
  float total = 0;
  for (int b = 0; b < fine.columns; ++b) {
    after.clear();
    before.clear();
    for (int k = t + 2; k <= t + 19; ++k)
      if (k >= 0 && k < fine.rows) after.push_back(fine.at(k, b));
    for (int k = t - 20; k <= t - 3; ++k)
      before.push_back(k >= 0 && k < fine.rows ? fine.at(k, b) : 0);
    total += std::max(0.0f, medianOf(after) - medianOf(before));
  }
  return 2.0f * total / float(fine.columns);
}

/// Splits at 200 and 2500 Hz by one-pole filters run once; enough to see which band moves.
struct ThreeBands {
  std::array<std::vector<float>, 3> bands;
  ThreeBands(const std::vector<float>& mono, double rate) {
    for (auto& band : bands) band.resize(mono.size());
    const float a = float(1 - std::exp(-2 * M_PI * 200 / rate));
    const float c = float(1 - std::exp(-2 * M_PI * 2500 / rate));
    float low = 0, mid = 0;
    for (std::size_t i = 0; i < mono.size(); ++i) {
      low += a * (mono[i] - low);
      mid += c * (mono[i] - mid);
      bands[0][i] = low;
      bands[1][i] = mid - low;
      bands[2][i] = mono[i] - mid;
    }
  }
};

/// The first place where the summed log rise over 2 ms reaches .8 of its largest, gone back to the
/// 30 % crossing, less the blade's half millisecond.
double cutPoint(const ThreeBands& split, double rate, double atS) {
  constexpr int grain = 16;
  const auto n = std::int64_t(split.bands[0].size());
  const std::int64_t begin = std::max<std::int64_t>(0, std::int64_t((atS - 0.045) * rate));
  const std::int64_t end = std::min<std::int64_t>(n, std::int64_t((atS + 0.030) * rate));
  const int steps = int((end - begin) / grain);
  if (steps < 8) return std::max(0.0, atS - kBladeS);
  std::vector<float> rise(std::size_t(steps), 0.0f);
  const int lag = std::max(1, int(std::lround(0.002 * rate / grain)));
  for (const auto& band : split.bands) {
    std::vector<float> level(static_cast<std::size_t>(steps));
    float loudest = 0;
    for (int s = 0; s < steps; ++s) {
      float sum = 0;
      for (int k = 0; k < grain; ++k) {
        const float v = band[std::size_t(begin + s * grain + k)];
        sum += v * v;
      }
      level[std::size_t(s)] = std::sqrt(sum / grain);
      loudest = std::max(loudest, level[std::size_t(s)]);
    }
    std::vector<float> smooth(level);
    for (int s = 1; s + 1 < steps; ++s) {
      std::array<float, 3> three{level[std::size_t(s - 1)], level[std::size_t(s)],
                                 level[std::size_t(s + 1)]};
      smooth[std::size_t(s)] = medianOf(three);
    }
    const float floor = std::max(1e-5f, 0.01f * loudest);
    for (int s = 0; s < steps; ++s) {
      const float before =
          s >= lag ? smooth[std::size_t(s - lag)] : (begin == 0 ? 0.0f : smooth[0]);
      const float change = std::log((smooth[std::size_t(s)] + floor) / (before + floor));
      rise[std::size_t(s)] += std::max(0.0f, change) * std::sqrt(loudest);
    }
  }
  const float most = *std::max_element(rise.begin(), rise.end());
  if (most <= 0) return std::max(0.0, atS - kBladeS);
  int place = 0;
  while (place < steps && rise[std::size_t(place)] < 0.8f * most) ++place;
  while (place > 0 && rise[std::size_t(place - 1)] > 0.3f * most) --place;
  return std::max(0.0, (double(begin) + double(place) * grain) / rate - kBladeS);
}

/// First classes from where the energy of the attack lies: low, middle, high.
std::vector<HitClass> classify(const ThreeBands& split, double rate, double cutS, double nextS) {
  const auto n = std::int64_t(split.bands[0].size());
  const auto at = std::int64_t(cutS * rate);
  const auto end =
      std::min<std::int64_t>({n, at + std::int64_t(0.06 * rate), std::int64_t(nextS * rate)});
  const auto before = std::max<std::int64_t>(0, at - std::int64_t(0.02 * rate));
  std::array<double, 3> energy{};
  for (std::size_t b = 0; b < 3; ++b) {
    double after = 0, rest = 0;
    for (auto i = at; i < end; ++i)
      after += double(split.bands[b][std::size_t(i)]) * split.bands[b][std::size_t(i)];
    for (auto i = before; i < at; ++i)
      rest += double(split.bands[b][std::size_t(i)]) * split.bands[b][std::size_t(i)];
    after /= double(std::max<std::int64_t>(1, end - at));
    rest /= double(std::max<std::int64_t>(1, at - before));
    energy[b] = std::max(0.0, after - rest);
  }
  const double all = energy[0] + energy[1] + energy[2] + 1e-12;
  const double low = energy[0] / all, mid = energy[1] / all, high = energy[2] / all;
  std::vector<HitClass> hits;
  if (low > 0.45) hits.push_back(HitClass::Kick);
  if (mid > 0.22 && high > 0.18)
    hits.push_back(HitClass::Snare);
  else if (high > 0.55)
    hits.push_back(HitClass::Hat);
  if (hits.empty()) hits.push_back(HitClass::Other);
  return hits;
}

Hertz brightnessAt(const std::vector<float>& mono, double rate, double atS) {
  Fft fft(2048);
  auto input = fft.input();
  const auto begin = std::size_t(std::max(0.0, atS * rate));
  for (std::size_t i = 0; i < input.size(); ++i)
    input[i] = begin + i < mono.size() && double(i) < 0.05 * rate ? mono[begin + i] : 0.0f;
  double weighted = 0, total = 1e-12;
  const auto bins = fft.run();
  for (std::size_t k = 1; k < bins.size(); ++k) {
    const double magnitude = std::abs(bins[k]);
    weighted += magnitude * double(k) * rate / fft.size();
    total += magnitude;
  }
  return Hertz(weighted / total);
}

} // namespace

std::vector<Onset> OnsetFinder::find(const Sound& sound, JobContext& job) const {
  // Rates near 44.1 and 48 kHz are heard as they are; others are brought to 44.1 kHz first.
  std::vector<float> mono = monoOf(sound);
  double rate = sound.rate().value;
  if (rate < 40000 || rate > 50000) {
    mono = resample(mono, sound.rate(), Hertz(44100));
    rate = 44100;
  }
  float loudest = 0;
  for (float v : mono) loudest = std::max(loudest, std::abs(v));
  if (loudest < 1e-4f) return {};
  for (float& v : mono) v /= loudest; // a change of gain changes nothing

  const auto flux = superflux(logBands(mono, rate, kFlux, kFluxHop, kFluxBands));
  if (job.cancelled()) return {};
  // Sensitivity ½ gives the published recipe's thresholds; the ends are four times either way.
  const double scale = std::pow(4.0, 1.0 - 2.0 * std::clamp(m_parameters.sensitivity, 0.0, 1.0));
  const double hopS = kFluxHop / rate;
  const auto peaks = fluxPeaks(flux, hopS, float(0.1 * scale), m_parameters.minimumGap);
  const Matrix fine = logBands(mono, rate, kFine, kFineHop, kFineBands);
  if (job.cancelled()) return {};

  const ThreeBands split(mono, rate);
  std::vector<Onset> onsets;
  for (int peak : peaks) {
    const double atS = peak * hopS;
    if (lastingRise(fine, atS, rate) < 0.6 * std::sqrt(scale)) continue;
    Onset onset;
    onset.cut = Seconds(cutPoint(split, rate, atS));
    onset.at = onset.cut + Seconds(kBladeS);
    if (!onsets.empty() && toMilliseconds(onset.cut - onsets.back().cut) < m_parameters.minimumGap)
      continue;
    onsets.push_back(onset);
  }
  for (std::size_t i = 0; i < onsets.size(); ++i) {
    auto& onset = onsets[i];
    const double next =
        i + 1 < onsets.size() ? onsets[i + 1].cut.value : double(mono.size()) / rate;
    onset.hits = classify(split, rate, onset.cut.value, next);
    onset.level = decibelsOf(std::max(
        1e-6f, peakOf(sound, toFrames(onset.cut, sound.rate()),
                      toFrames(std::min(onset.cut + Seconds(0.1), Seconds(next)), sound.rate()))));
    onset.brightness = brightnessAt(mono, rate, onset.cut.value);
  }
  return onsets;
}

} // namespace tuvvo
