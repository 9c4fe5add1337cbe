#include "audio/probe.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

namespace tuvvo {

namespace {

std::array<float, kProbeFrames> madeProbe() {
  constexpr double rate = 48000, low = 150, high = 15'000, length = kProbeFrames / rate;
  constexpr int fade = 240;
  const double octaves = std::log(high / low);
  std::array<float, kProbeFrames> wave{};
  for (int i = 0; i < kProbeFrames; ++i) {
    const double t = i / rate;
    const double phase = 2 * M_PI * low * length / octaves * (std::exp(t / length * octaves) - 1);
    const double edge = std::min({1.0, i / double(fade), (kProbeFrames - 1 - i) / double(fade)});
    wave[std::size_t(i)] = float(double(kProbePeak) * edge * std::sin(phase));
  }
  return wave;
}

} // namespace

std::span<const float> probeWave() {
  static const auto wave = madeProbe();
  return wave;
}

std::optional<ProbeFound> findProbe(std::span<const float> recorded) {
  const auto wave = probeWave();
  if (recorded.size() < wave.size()) return std::nullopt;
  double energy = 0, window = 0;
  for (float v : wave) energy += double(v) * double(v);
  for (std::size_t i = 0; i < wave.size(); ++i) window += double(recorded[i]) * double(recorded[i]);
  const double leastWindow = energy * 1e-7; // −70 dB
  ProbeFound best;
  double bestGain = 0;
  for (std::size_t at = 0;; ++at) {
    if (window > leastWindow) {
      float sums[8]{}; // eight sums let the compiler use its wide registers
      for (std::size_t i = 0; i < wave.size(); i += 8)
        for (std::size_t k = 0; k < 8; ++k) sums[k] += wave[i + k] * recorded[at + i + k];
      double sum = 0;
      for (float part : sums) sum += double(part);
      const double correlation = std::abs(sum) / std::sqrt(energy * window);
      if (correlation > best.correlation) {
        best = {int(at), correlation, 0};
        bestGain = sum / energy;
      }
    }
    if (at + wave.size() >= recorded.size()) break;
    const double in = double(recorded[at + wave.size()]), out = double(recorded[at]);
    window = std::max(0.0, window + in * in - out * out);
  }
  best.correlation = std::min(1.0, best.correlation);
  best.gain = float(std::abs(bestGain));
  if (best.correlation < 0.5) return std::nullopt;
  return best;
}

} // namespace tuvvo
