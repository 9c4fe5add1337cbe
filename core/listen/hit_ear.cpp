#include "listen/hit_ear.h"

#include "listen/hit_weights.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr int kSize = 512;
constexpr float kFloorDb = 66;

std::vector<double> logEdges(double from, double to, int bands) {
  std::vector<double> edges;
  for (int i = 0; i < bands + 2; ++i)
    edges.push_back(from * std::pow(to / from, double(i) / (bands + 1)));
  return edges;
}

float percentile(std::vector<float> values, double share) {
  if (values.empty()) return 0;
  const auto at = values.begin() + std::ptrdiff_t(double(values.size() - 1) * share);
  std::nth_element(values.begin(), at, values.end());
  return *at;
}

} // namespace

HitEar::HitEar(std::span<const float> mono) {
  const BandSummer summer(logEdges(40, 10500, kBands), kSize, kRate);
  m_levels = Matrix(int((mono.size() + std::size_t(kHop) - 1) / std::size_t(kHop)), kBands);
  forEachFrame(mono, kSize, int(kHop), [&](int t, std::span<const float> magnitudes) {
    summer.sum(magnitudes, m_levels.row(t));
  });
  // Twelve bands in dB, each of two, against the loudest place of the sound.
  m_decibels = Matrix(m_levels.rows, 12);
  std::vector<float> column(static_cast<std::size_t>(m_levels.rows));
  float loudest = 1e-9f;
  for (int t = 0; t < m_levels.rows; ++t) {
    const auto row = m_levels.row(t);
    float sum = 0;
    for (float v : row) sum += v;
    column[std::size_t(t)] = sum / kBands;
  }
  loudest = std::max(loudest, percentile(column, 0.995));
  for (int t = 0; t < m_levels.rows; ++t)
    for (int b = 0; b < 12; ++b) {
      const float v = (m_levels.at(t, 2 * b) + m_levels.at(t, 2 * b + 1)) / 2;
      m_decibels.at(t, b) = std::max(0.0f, 20 * std::log10(v / loudest + 1e-6f) + kFloorDb) / 20;
    }
  for (int b = 0; b < 12; ++b) {
    for (int t = 0; t < m_levels.rows; ++t) column[std::size_t(t)] = m_decibels.at(t, b);
    m_usual[std::size_t(b)] = percentile(column, 0.9);
  }
  for (int b = 0; b < kBands; ++b) {
    for (int t = 0; t < m_levels.rows; ++t) column[std::size_t(t)] = m_levels.at(t, b);
    const float epsilon = std::max(0.0005f * loudest, 2.0f * percentile(column, 0.1));
    for (int t = 0; t < m_levels.rows; ++t)
      m_levels.at(t, b) = std::log1p(m_levels.at(t, b) / epsilon);
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

std::vector<int> HitEar::rises(float threshold, double gapS) const {
  const int n = frames(), reach = std::max(1, int(std::lround(gapS * kFramesASecond)));
  const int wide = int(0.4 * kFramesASecond);
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

HitEar::Features HitEar::featuresAt(int frame) const {
  Features out{};
  const auto mean = [&](int band, int from, int to) {
    float sum = 0;
    for (int t = frame + from; t < frame + to; ++t)
      sum += t >= 0 && t < frames() ? m_decibels.at(t, band) : 0.0f;
    return sum / float(to - from);
  };
  std::size_t f = 0;
  float rise = 0;
  for (int b = 0; b < 12; ++b) {
    float attack = 0;
    for (int t = std::max(0, frame - 2); t <= std::min(frames() - 1, frame + 5); ++t)
      attack = std::max(attack, m_decibels.at(t, b));
    const float before = mean(b, -16, -6);
    out[f++] = before;
    out[f++] = attack;
    out[f++] = mean(b, 5, 13);
    out[f++] = mean(b, 13, 26);
    out[f++] = mean(b, 26, 52);
    out[f++] = m_usual[std::size_t(b)];
    rise += std::max(0.0f, attack - before);
  }
  out[f++] = rise / 4;
  out[f++] = m_flux[std::size_t(std::clamp(frame, 0, frames() - 1))];
  return out;
}

HitEar::Named HitEar::name(const Features& features) {
  std::array<float, kHitHidden> hidden{};
  for (std::size_t h = 0; h < hidden.size(); ++h) {
    float sum = kHitHiddenBias[h];
    for (std::size_t i = 0; i < features.size(); ++i)
      sum += kHitHiddenWeights[h][i] * (features[i] - kHitMean[i]) * kHitScale[i];
    hidden[h] = std::max(0.0f, sum);
  }
  std::array<float, 5> out{};
  for (std::size_t k = 0; k < out.size(); ++k) {
    float sum = kHitOutBias[k];
    for (std::size_t h = 0; h < hidden.size(); ++h) sum += kHitOutWeights[k][h] * hidden[h];
    out[k] = 1 / (1 + std::exp(-sum));
  }
  return {out[0], out[1], out[2], out[3], out[4]};
}

} // namespace tuvvo
