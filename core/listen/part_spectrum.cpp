#include "listen/part_spectrum.h"

#include "base/convert.h"
#include "listen/spectrum.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

std::vector<float> partSpectrum(const Sound& sound) {
  constexpr int size = 8192;
  const auto mono = monoOf(sound);
  std::vector<double> power(size / 2 + 1, 0.0);
  Fft fft(size);
  int blocks = 0;
  // Whole blocks: what is left at the end would count as one and weigh less.
  for (std::size_t at = 0; at == 0 || at + size <= mono.size(); at += size) {
    auto input = fft.input();
    double energy = 0;
    for (std::size_t i = 0; i < size; ++i) {
      const double window = 0.5 - 0.5 * std::cos(2 * M_PI * double(i) / size);
      input[i] = at + i < mono.size() ? float(window * double(mono[at + i])) : 0.0f;
      energy += double(input[i]) * double(input[i]);
    }
    ++blocks;
    if (energy < 1e-9) continue;
    const auto bins = fft.run();
    for (std::size_t k = 0; k < bins.size(); ++k) power[k] += double(std::norm(bins[k]));
  }
  std::vector<float> bands(kSpectrumBands, -120.0f);
  // A sine of full scale: a quarter of the window's length squared in its own bin, half as much
  // again beside it (a Hann window's noise bandwidth is one and a half bins).
  const double perBin = sound.rate().value / size, full = double(size) * size / 16 * 1.5 * blocks;
  for (int b = 0; b < kSpectrumBands; ++b) {
    const double centre = 1000 * std::pow(10, (b - 16) / 10.0);
    const double low = centre / std::pow(10, 0.05), high = centre * std::pow(10, 0.05);
    double sum = 0;
    for (auto k = toWhole<std::size_t>(std::ceil(low / perBin));
         double(k) * perBin < high && k < power.size(); ++k)
      sum += power[k];
    if (sum > 0) bands[std::size_t(b)] = std::max(-120.0f, float(10 * std::log10(sum / full)));
  }
  return bands;
}

} // namespace tuvvo
