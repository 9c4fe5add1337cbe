#include "listen/wow.h"

#include <algorithm>
#include <cmath>
#include <complex>

namespace tuvvo {

namespace {

constexpr double kWowRate = Harmony::kRate / 2; // speeds a second
constexpr double kFrameS = 8192 / 22050.0;      // a frame's own length blurs what is quicker
constexpr double kLeastOneTuning = 0.1;         ///< of the tones on one tuning
// Of a line, that it is told: cents, and times the usual line.
constexpr double kLeastWow = 1.5, kOverTheUsual = 4;
constexpr double kSameLine = 0.3; ///< of what lines are apart that can be told from one another

/// How much of a wavering a Hann window of a frame's length leaves.
double kept(double hertz) {
  const double x = hertz * kFrameS; // turns within the frame
  return std::abs(x) < 1e-6 ? 1 : std::abs(std::sin(M_PI * x) / (M_PI * x * (1 - x * x)));
}

double totalWeight(const Harmony& harmony) {
  double sum = 0;
  for (const auto& speed : harmony.speeds) sum += double(speed.weight);
  return sum;
}

/// Whether something comes a whole number of times in a bar.
bool comesWithBars(double hertz, double bar, double seconds) {
  if (bar <= 0) return false;
  const double times = hertz * bar;
  return std::abs(times - std::round(times)) / bar < kSameLine / seconds;
}

} // namespace

std::optional<WowHeard> measureWow(const Harmony& harmony, Seconds bar) {
  const double seconds = double(harmony.speeds.size()) / kWowRate, weight = totalWeight(harmony);
  if (seconds < 6 || weight <= 0 || harmony.agreement < kLeastOneTuning) return std::nullopt;
  struct Line {
    double hertz, cents;
  };
  std::vector<Line> lines;
  int size = 256;
  while (std::size_t(size) < 4 * harmony.speeds.size()) size *= 2;
  Fft fft(size);
  auto input = fft.input();
  std::fill(input.begin(), input.end(), 0.0f);
  for (std::size_t t = 0; t < harmony.speeds.size(); ++t)
    input[t] = harmony.speeds[t].weight * harmony.speeds[t].cents;
  const auto bins = fft.run();
  for (std::size_t k = 1; k < bins.size(); ++k) {
    const double hertz = double(k) * kWowRate / size;
    if (hertz >= 0.2 && hertz < 2.4)
      lines.push_back({hertz, 2 * double(std::abs(bins[k])) / weight / kept(hertz)});
  }
  std::vector<float> all;
  const Line* best = nullptr;
  for (const auto& line : lines) {
    all.push_back(float(line.cents));
    if (line.hertz >= 0.4 && line.hertz <= 1.6 && (!best || line.cents > best->cents)) best = &line;
  }
  const double usual = double(medianOf(all));
  if (!best || best->cents < kLeastWow || best->cents < kOverTheUsual * usual ||
      comesWithBars(best->hertz, bar.value, seconds))
    return std::nullopt;
  return WowHeard{Hertz(best->hertz), Cents(best->cents)};
}

std::optional<Cents> measureSpeedDrift(const Harmony& harmony) {
  const double seconds = double(harmony.speeds.size()) / kWowRate, weight = totalWeight(harmony);
  if (seconds < 20 || weight <= 0 || harmony.agreement < 0.3) return std::nullopt;
  double meanT = 0, meanC = 0;
  for (std::size_t t = 0; t < harmony.speeds.size(); ++t) {
    const auto& [cents, w] = harmony.speeds[t];
    meanT += double(w) / weight * double(t);
    meanC += double(w) / weight * double(cents);
  }
  double tt = 1e-9, tc = 0, cc = 1e-9;
  for (std::size_t t = 0; t < harmony.speeds.size(); ++t) {
    const auto& [cents, w] = harmony.speeds[t];
    const double x = double(t) - meanT, y = double(cents) - meanC;
    tt += double(w) * x * x;
    tc += double(w) * x * y;
    cc += double(w) * y * y;
  }
  const double total = tc / tt * double(harmony.speeds.size());
  // The line must say a good part of what moves.
  if (std::abs(total) < 8 || tc * tc / (tt * cc) < 0.25) return std::nullopt;
  return Cents(total);
}

} // namespace tuvvo
