#include "listen/onset_strength.h"

#include "base/convert.h"
#include "listen/spectrum.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr int kBands = 40, kLag = 3;
constexpr std::array<int, OnsetStrength::kGroups + 1> kGroupEdges{0, 2, 7, 16, 28, 40};

std::vector<double> melEdges() {
  const auto mel = [](double hz) { return 2595.0 * std::log10(1 + hz / 700.0); };
  std::vector<double> edges;
  const double low = mel(30), high = mel(10500);
  for (int i = 0; i < kBands + 2; ++i)
    edges.push_back(700.0 * (std::pow(10, (low + (high - low) * i / (kBands + 1)) / 2595.0) - 1));
  return edges;
}

/// Less the running mean of half a second, rectified, held at four deviations, of deviation one.
double condition(std::vector<float>& curve) {
  const int n = int(curve.size()), half = toWhole<int>(OnsetStrength::kRate / 4);
  std::vector<double> sums(std::size_t(n) + 1, 0.0);
  for (int i = 0; i < n; ++i)
    sums[std::size_t(i) + 1] = sums[std::size_t(i)] + curve[std::size_t(i)];
  double square = 0;
  for (int i = 0; i < n; ++i) {
    const int a = std::max(0, i - half), b = std::min(n, i + half + 1);
    const double mean = (sums[std::size_t(b)] - sums[std::size_t(a)]) / (b - a);
    curve[std::size_t(i)] = float(std::max(0.0, curve[std::size_t(i)] - mean));
    square += double(curve[std::size_t(i)]) * curve[std::size_t(i)];
  }
  const double deviation = std::sqrt(square / std::max(1, n));
  if (deviation > 1e-9)
    for (float& v : curve) v = float(std::min(4.0, v / deviation));
  return deviation;
}

/// The strongest rise of a picture's three frames, and a third of each one's level.
void addToPicture(const std::array<float, kBands>& rise, std::span<const float> level,
                  std::span<float> picture) {
  for (std::size_t p = 0; p < OnsetStrength::kRises; ++p)
    picture[p] = std::max(picture[p], rise[2 * p] + rise[2 * p + 1]);
  for (std::size_t p = 0; p < OnsetStrength::kLevels; ++p)
    for (std::size_t b = 4 * p; b < 4 * p + 4; ++b)
      picture[OnsetStrength::kRises + p] += level[b] / 12;
}

} // namespace

std::vector<float> OnsetStrength::mixed(const std::array<double, kGroups>& weights) const {
  std::vector<float> out(groups[0].size(), 0.0f);
  for (std::size_t g = 0; g < kGroups; ++g)
    for (std::size_t i = 0; i < out.size(); ++i) out[i] += float(weights[g]) * groups[g][i];
  return out;
}

OnsetStrength onsetStrength(std::span<const float> mono) {
  double square = 1e-12;
  for (float v : mono) square += double(v) * v;
  const double rms = std::sqrt(square / double(std::max<std::size_t>(1, mono.size())));
  const BandSummer summer(melEdges(), 1024, 22050);
  const auto frames = (mono.size() + 127) / 128;
  OnsetStrength out;
  out.picture = Matrix(int((frames + 2) / 3), OnsetStrength::kRises + OnsetStrength::kLevels);
  for (auto& group : out.groups) group.assign(frames, 0.0f);
  Matrix recent(kLag + 1, kBands);                 // silence before the start
  const float gain = float(100.0 / (rms * 256.0)); // a sine of that level counts as 100
  forEachFrame(mono, 1024, 128, [&](int t, std::span<const float> magnitudes) {
    auto row = recent.row(t % (kLag + 1));
    summer.sum(magnitudes, row);
    for (float& v : row) v = std::log1p(gain * v);
    const auto last = recent.row((t + 1) % (kLag + 1));
    std::array<float, kBands> rise{};
    for (int b = 0; b < kBands; ++b) {
      float before = 0;
      for (int k = std::max(0, b - 1); k <= std::min(kBands - 1, b + 1); ++k)
        before = std::max(before, last[std::size_t(k)]);
      rise[std::size_t(b)] = std::max(0.0f, row[std::size_t(b)] - before);
    }
    addToPicture(rise, row, out.picture.row(t / 3));
    for (int g = 0; g < OnsetStrength::kGroups; ++g) {
      float total = 0;
      for (int b = kGroupEdges[std::size_t(g)]; b < kGroupEdges[std::size_t(g) + 1]; ++b)
        total += rise[std::size_t(b)];
      out.groups[std::size_t(g)][std::size_t(t)] = total;
    }
  });
  for (std::size_t g = 0; g < OnsetStrength::kGroups; ++g)
    out.deviation[g] = condition(out.groups[g]);
  return out;
}

} // namespace tuvvo
