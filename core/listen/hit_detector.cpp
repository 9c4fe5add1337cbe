#include "listen/hit_detector.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>
#include <functional>

namespace tuvvo {

namespace {

constexpr int kHitSize = 512;
constexpr float kFloorDb = 66, kDbOfLog = 8.685889638f; // 20 / ln 10
constexpr std::array<int, HitDetector::kRegions + 1> kRegionBins{8,   16,  32, 64,
                                                                 112, 176, 248}; // of 43 Hz

std::vector<double> logEdges(double from, double to, int bands) {
  std::vector<double> edges;
  for (int i = 0; i < bands + 2; ++i)
    edges.push_back(from * std::pow(to / from, double(i) / (bands + 1)));
  return edges;
}

/// Reorders what it is given.
float percentile(std::vector<float>& values, double share) {
  if (values.empty()) return 0;
  const auto at = values.begin() + toWhole<std::ptrdiff_t>(double(values.size() - 1) * share);
  std::nth_element(values.begin(), at, values.end());
  return *at;
}

/// −ln of the spectral flatness (geometric over arithmetic mean) of magnitudes: a multiple of four
/// of them, 96 at most, none below `least`, which is 10^-12 at least: as many as doubles hold the
/// product of, four beside each other.
float tonalityOf(std::span<const float> magnitudes, float least) {
  std::array<double, 4> products{1, 1, 1, 1}, sums{};
  for (std::size_t k = 0; k + 4 <= magnitudes.size(); k += 4)
    for (std::size_t lane = 0; lane < 4; ++lane) {
      const double v = double(magnitudes[k + lane] + least);
      products[lane] *= v;
      sums[lane] += v;
    }
  const double logs = std::log(products[0] * products[1]) + std::log(products[2] * products[3]),
               sum = sums[0] + sums[1] + sums[2] + sums[3];
  const auto count = double(magnitudes.size());
  return float(std::log(sum / count) - logs / count);
}

} // namespace

HitDetector::HitDetector(std::span<const float> mono) {
  const BandSummer summer(logEdges(40, 10500, kBands), kHitSize, kRate);
  m_levels = Matrix(
      int((mono.size() + toWhole<std::size_t>(kHop) - 1) / toWhole<std::size_t>(kHop)), kBands);
  m_tonality = Matrix(m_levels.rows, kRegions);
  float peak = 1e-4f;
  for (float v : mono) peak = std::max(peak, std::abs(v));
  forEachFrame(mono, kHitSize, toWhole<int>(kHop), [&](int t, std::span<const float> magnitudes) {
    summer.sum(magnitudes, m_levels.row(t));
    for (std::size_t r = 0; r < kRegions; ++r)
      m_tonality.at(t, int(r)) =
          tonalityOf(magnitudes.subspan(std::size_t(kRegionBins[r]),
                                        std::size_t(kRegionBins[r + 1] - kRegionBins[r])),
                     0.001f * peak); // 102 dB under a full tone
  });
  // In dB against the loudest place of the sound.
  std::vector<float> column(static_cast<std::size_t>(m_levels.rows));
  for (int t = 0; t < m_levels.rows; ++t) {
    float sum = 0;
    for (float v : m_levels.row(t)) sum += v;
    column[std::size_t(t)] = sum / kBands;
  }
  const float loudest = std::max(1e-9f, percentile(column, 0.995));
  const float floor = loudest * std::pow(10.0f, -kFloorDb / 20);
  const auto decibels = [&](float v) {
    return v > floor ? (kDbOfLog * std::log(v / loudest) + kFloorDb) / 20 : 0.0f;
  };
  m_decibels = Matrix(m_levels.rows, kBands);
  std::transform(m_levels.values.begin(), m_levels.values.end(), m_decibels.values.begin(),
                 decibels);
  std::array<float, kBands> epsilon{};
  for (int b = 0; b < kBands; ++b) {
    for (int t = 0; t < m_levels.rows; ++t) column[std::size_t(t)] = m_levels.at(t, b);
    m_usual[std::size_t(b)] = decibels(percentile(column, 0.9));
    epsilon[std::size_t(b)] = std::max(0.0005f * loudest, 2.0f * percentile(column, 0.1));
  }
  for (int t = 0; t < m_levels.rows; ++t)
    for (int b = 0; b < kBands; ++b) {
      float& v = m_levels.at(t, b);
      v = std::log(1 + v / epsilon[std::size_t(b)]);
    }
  m_flux.assign(std::size_t(m_levels.rows), 0.0f);
  for (int t = 0; t < m_levels.rows; ++t) {
    float total = 0;
    for (int b = 0; b < kBands; ++b) {
      float before = 0; // silence before the start
      if (t >= 4)
        for (int k = std::max(0, b - 1); k <= std::min(kBands - 1, b + 1); ++k)
          before = std::max(before, m_levels.at(t - 4, k));
      total += std::max(0.0f, m_levels.at(t, b) - before);
    }
    m_flux[std::size_t(t)] = total / kBands;
  }
}

std::vector<int> HitDetector::rises(float threshold, double gapS) const {
  const int n = frames(), reach = std::max(1, toNearest<int>(gapS * kFramesASecond));
  const int wide = toWhole<int>(0.4 * kFramesASecond);
  std::vector<int> out;
  std::vector<float> around;
  float median = 0;
  int medianAt = -1000;
  for (int t = 0; t < n; ++t) {
    const float v = m_flux[std::size_t(t)];
    if (v < threshold) continue;
    const auto begin = m_flux.begin() + std::max(0, t - reach);
    const auto end = m_flux.begin() + std::min(n, t + reach + 1);
    if (v < *std::max_element(begin, end)) continue;
    if (t - medianAt > 8) { // the surroundings change slowly
      around.assign(m_flux.begin() + std::max(0, t - wide),
                    m_flux.begin() + std::min(n, t + wide + 1));
      median = medianOf(around);
      medianAt = t;
    }
    if (v < threshold + median) continue;
    if (!out.empty() && t - out.back() < reach) continue;
    out.push_back(t);
  }
  return out;
}

HitDetector::Features HitDetector::featuresAt(int frame) const {
  Features out{};
  auto next = out.begin();
  const auto means = [&](const Matrix& of, Stretch stretch) {
    const int from = std::max(0, frame + stretch.from),
              to = std::min(frames(), frame + stretch.to); // silence around the sound
    for (int t = from; t < to; ++t) {
      const auto row = of.row(t);
      std::transform(row.begin(), row.end(), next, next, std::plus<>());
    }
    for (int i = 0; i < of.columns; ++i) *next++ /= float(stretch.to - stretch.from);
  };
  for (const Stretch& stretch : kStretches) means(m_decibels, stretch);
  const auto before = out.begin(), attack = next;
  float rise = 0;
  for (int t = std::max(0, frame - 2); t <= std::min(frames() - 1, frame + 5); ++t)
    for (int b = 0; b < kBands; ++b) attack[b] = std::max(attack[b], m_decibels.at(t, b));
  for (int b = 0; b < kBands; ++b) rise += std::max(0.0f, attack[b] - before[b]);
  next = std::copy(m_usual.begin(), m_usual.end(), attack + kBands);
  for (const Stretch& stretch : kNoiseStretches) means(m_tonality, stretch);
  *next++ = rise / 8;
  *next++ = m_flux[std::size_t(std::clamp(frame, 0, frames() - 1))];
  return out;
}

} // namespace tuvvo
