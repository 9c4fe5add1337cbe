#include "listen/hum.h"

#include "base/convert.h"
#include "listen/spectrum.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kHumRate = 22050;
constexpr int kHumSize = 8192, kHumHop = 4096; // short enough for the gaps between hits
constexpr double kPerBin =
    kHumRate / kHumSize;   // 2.7 Hz; a steady line is placed to a tenth of that
constexpr int kBins = 110; // to 296 Hz

/// The level that is there nearly always: the quietest tenth of frames, bin by bin.
std::vector<float> steadyPart(std::span<const float> mono) {
  std::vector<std::vector<float>> columns(kBins);
  forEachFrame(
      mono, kHumSize, kHumHop,
      [&](int, std::span<const float> magnitudes) {
        for (std::size_t k = 0; k < kBins; ++k) columns[k].push_back(magnitudes[k]);
      },
      kBins);
  std::vector<float> out;
  for (auto& column : columns) {
    const auto tenth = column.begin() + std::ptrdiff_t(column.size() / 10);
    std::nth_element(column.begin(), tenth, column.end());
    out.push_back(*tenth);
  }
  return out;
}

struct Peak {
  double hertz = 0, overDb = -100, amplitude = 0;
};

Peak peakNear(const std::vector<float>& level, double hertz) {
  const int centre = toNearest<int>(hertz / kPerBin);
  int at = centre - 1;
  for (int k = centre - 1; k <= centre + 1; ++k)
    if (level[std::size_t(k)] > level[std::size_t(at)]) at = k;
  std::vector<float> beside;
  for (int k = 3; k <= 8; ++k) {
    if (at - k > 4) beside.push_back(level[std::size_t(at - k)]);
    if (at + k < kBins) beside.push_back(level[std::size_t(at + k)]);
  }
  const double a = std::log(double(level[std::size_t(at - 1)]) + 1e-9),
               b = std::log(double(level[std::size_t(at)]) + 1e-9),
               c = std::log(double(level[std::size_t(at + 1)]) + 1e-9);
  // The top of a parabola through three bins: where the line is, and how high between two bins.
  const double bend = a - 2 * b + c, aside = bend < 0 ? 0.5 * (a - c) / bend : 0;
  return {
      (at + aside) * kPerBin,
      20 * std::log10((double(level[std::size_t(at)]) + 1e-9) / (double(medianOf(beside)) + 1e-9)),
      std::exp(b - 0.25 * (a - c) * aside) / (kHumSize / 4.0)};
}

} // namespace

std::optional<FaultHeard> measureHum(std::span<const float> mono) {
  if (double(mono.size()) < 3 * kHumRate) return std::nullopt;
  const auto level = steadyPart(mono);
  for (double mains : {50.0, 60.0}) {
    int lines = 0;
    double amplitude = 0;
    for (int harmonic = 1; harmonic <= 4; ++harmonic) {
      const Peak peak = peakNear(level, mains * harmonic);
      if (peak.overDb < 12 || std::abs(peak.hertz - mains * harmonic) > 0.3) continue;
      ++lines;
      amplitude = std::max(amplitude, peak.amplitude);
    }
    const double decibels = 20 * std::log10(amplitude + 1e-9);
    if (lines < 2 || decibels < -80) continue;
    return FaultHeard{"hum", mains, decibels};
  }
  return std::nullopt;
}

std::optional<FaultHeard> findDeadAir(std::span<const float> mono) {
  float peak = 0;
  for (float v : mono) peak = std::max(peak, std::abs(v));
  if (peak <= 0) return std::nullopt;
  const float floor = peak * 3.2e-4f;
  std::size_t longest = 0, start = 0, run = 0;
  bool begun = false; // silence at the front is a fault of its own
  for (std::size_t i = 0; i < mono.size(); ++i) {
    if (std::abs(mono[i]) >= floor) {
      begun = true;
      run = 0;
    } else if (begun && ++run > longest) {
      longest = run;
      start = i + 1 - run;
    }
  }
  const double seconds = double(longest) / kHumRate;
  if (seconds < 1) return std::nullopt;
  return FaultHeard{"dead air", seconds, double(start) / kHumRate};
}

} // namespace tuvvo
