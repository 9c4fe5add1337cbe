#include "listen/onsets.h"

#include "audio/resample.h"
#include "base/convert.h"
#include "listen/hit_detail.h"
#include "listen/hit_names.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kOnsetRate = HitDetector::kRate;
constexpr double kBladeS = 0.001; // a blade goes in this long before the attack: a fade's time
// The attack lies from 9 ms before to 2 ms after the frame of the rise (5th to 95th percentile).
constexpr double kBeforeS = 0.018, kAfterS = 0.008;
constexpr std::size_t kCutGrain = 7; // a third of a millisecond
constexpr double kRiseS = 0.002;     // over so much a rise is measured
/// By band: what came so long before is still the tail that a rise stands on.
constexpr std::array<double, 3> kMemoryS{0.025, 0.012, 0.006};
constexpr float kStruck = 0.45f;  // that something is struck
constexpr float kSaid = 0.5f;     // from here on a class is said
constexpr float kDrumSure = 0.8f; // a drum is named from here on

/// A stretch split at 200 and 2500 Hz by one-pole filters that begin a little before it; enough to
/// see which band moves.
struct ThreeBands {
  std::array<std::vector<float>, 3> bands;
  ThreeBands(std::span<const float> mono, std::int64_t begin, std::int64_t end) {
    for (auto& band : bands) band.reserve(std::size_t(end - begin));
    const float a = float(1 - std::exp(-2 * M_PI * 200 / kOnsetRate));
    const float c = float(1 - std::exp(-2 * M_PI * 2500 / kOnsetRate));
    const std::int64_t settle =
        toWhole<std::int64_t>(0.02 * kOnsetRate); // 25 time constants of the lower one
    float low = 0, mid = 0;
    for (std::int64_t i = std::max<std::int64_t>(0, begin - settle); i < end; ++i) {
      const float v = mono[std::size_t(i)];
      low += a * (v - low);
      mid += c * (v - mid);
      if (i < begin) continue;
      bands[0].push_back(low);
      bands[1].push_back(mid - low);
      bands[2].push_back(v - mid);
    }
  }
};

/// How loud a band is in every grain of it, less single peaks.
std::vector<float> grainLevels(const std::vector<float>& band) {
  std::vector<float> level, smooth;
  for (std::size_t at = 0; at + kCutGrain <= band.size(); at += kCutGrain) {
    float sum = 0;
    for (std::size_t k = 0; k < kCutGrain; ++k) sum += band[at + k] * band[at + k];
    level.push_back(std::sqrt(sum / kCutGrain));
  }
  smooth = level;
  for (std::size_t s = 1; s + 1 < level.size(); ++s) {
    std::array<float, 3> three{level[s - 1], level[s], level[s + 1]};
    smooth[s] = medianOf(three);
  }
  return smooth;
}

/// The first place where the summed log rise reaches .8 of its largest, gone back to the 30 %
/// crossing, less the blade's millisecond. A band rises over the loudest of what came just before,
/// for at least as long as its slowest wave: so the ripple of a tail is no rise.
double cutPoint(std::span<const float> mono, double atS) {
  const auto grains = [](double seconds) {
    return std::max(1, toNearest<int>(seconds * kOnsetRate / double(kCutGrain)));
  };
  const auto n = std::int64_t(mono.size());
  const std::int64_t grain = kCutGrain,
                     first = std::max<std::int64_t>(
                         0, toWhole<std::int64_t>((atS - kBeforeS) * kOnsetRate) / grain),
                     end = std::min(n, toWhole<std::int64_t>((atS + kAfterS) * kOnsetRate)) / grain;
  const int steps = int(end - first), lag = grains(kRiseS);
  if (steps < 8) return std::max(0.0, atS - kBladeS);
  const int lead = int(std::min<std::int64_t>(first, grains(kMemoryS[0]) + lag));
  const ThreeBands split(mono, (first - lead) * grain, end * grain);
  std::vector<float> rise(std::size_t(steps), 0.0f);
  for (std::size_t b = 0; b < split.bands.size(); ++b) {
    const auto level = grainLevels(split.bands[b]);
    const float loudest = *std::max_element(level.begin() + lead, level.end());
    const float floor = std::max(1e-5f, 0.03f * loudest);
    const int memory = grains(kMemoryS[b]);
    for (int s = 0; s < steps; ++s) {
      const int to = lead + s - lag; // silence before the sound
      const auto from = level.begin() + std::max(0, to - memory);
      const float before = to < 0 ? 0.0f : *std::max_element(from, level.begin() + to + 1);
      const float change = std::log((level[std::size_t(lead + s)] + floor) / (before + floor));
      rise[std::size_t(s)] += std::max(0.0f, change) * std::sqrt(loudest);
    }
  }
  const float top = *std::max_element(rise.begin(), rise.end());
  if (top <= 0) return std::max(0.0, atS - kBladeS);
  int place = 0;
  while (rise[std::size_t(place)] < 0.8f * top) ++place;
  while (place > 0 && rise[std::size_t(place - 1)] > 0.3f * top) --place;
  return std::max(0.0, double((first + place) * grain) / kOnsetRate - kBladeS);
}

std::vector<HitClass> classesOf(const HitNamed& named) {
  std::vector<HitClass> hits;
  if (named.kick > kSaid) hits.push_back(HitClass::Kick);
  if (named.snare > kSaid) hits.push_back(HitClass::Snare);
  if (named.hat > kSaid) hits.push_back(HitClass::Hat);
  if (named.other > kSaid || hits.empty()) hits.push_back(HitClass::Other);
  return hits;
}

/// Those whose class is among the hits.
std::vector<Drum> drumsOf(const HitNamed& named, const std::vector<HitClass>& hits) {
  std::vector<Drum> out;
  for (std::size_t d = 0; d < kDrums; ++d)
    if (named.drums[d] > kDrumSure &&
        std::find(hits.begin(), hits.end(), classOf(Drum(d))) != hits.end())
      out.push_back(Drum(d));
  return out;
}

/// How far each likelihood is from where it would have been decided the other way, as a share of
/// the way to certainty.
std::array<double, 4> surenessOf(const HitNamed& named) {
  const auto clear = [](float likelihood) {
    return double(likelihood > kSaid ? (likelihood - kSaid) / (1 - kSaid)
                                     : (kSaid - likelihood) / kSaid);
  };
  return {clear(named.kick), clear(named.snare), clear(named.hat), clear(named.other)};
}

/// Where most of a kick, a snare and a hat lies and least of the others, in Hz (chosen by how well
/// levels agree with velocities of breaks with known notes); all of it for the rest.
constexpr std::array<std::pair<double, double>, 4> kClassBands{
    {{30, 160}, {400, 6000}, {6500, 11000}, {30, 11000}}};
constexpr double kStrokeS = 0.03, kStrokeFadeS = 0.01;
constexpr int kStrokeSize = 1024;

/// See Onset::levels.
std::array<Decibels, 4> levelsAt(std::span<const float> mono, double atS, Fft& fft) {
  const auto count = toWhole<std::size_t>(kStrokeS * kOnsetRate),
             fade = toWhole<std::size_t>(kStrokeFadeS * kOnsetRate);
  const auto begin = toWhole<std::size_t>(std::max(0.0, atS * kOnsetRate));
  auto input = fft.input();
  std::fill(input.begin(), input.end(), 0.0f);
  for (std::size_t i = 0; i < count && begin + i < mono.size(); ++i) {
    const double left = double(count - i) / double(fade); // its end is no stroke
    input[i] = mono[begin + i] * float(left < 1 ? 0.5 - 0.5 * std::cos(M_PI * left) : 1.0);
  }
  const auto bins = fft.run();
  std::array<double, 4> power{};
  for (std::size_t k = 1; k < bins.size(); ++k) {
    const double hertz = double(k) * kOnsetRate / kStrokeSize;
    for (std::size_t c = 0; c < power.size(); ++c)
      if (hertz >= kClassBands[c].first && hertz < kClassBands[c].second)
        power[c] += 2 * double(std::norm(bins[k]));
  }
  std::array<Decibels, 4> out;
  for (std::size_t c = 0; c < out.size(); ++c)
    out[c] = Decibels(
        std::round(1000 * std::log10(power[c] / kStrokeSize / double(count) + 1e-12)) / 100);
  return out;
}

/// Centre of gravity of the spectrum of the first 50 ms.
Hertz brightnessAt(std::span<const float> mono, double atS, Fft& fft) {
  auto input = fft.input();
  const auto begin = toWhole<std::size_t>(std::max(0.0, atS * kOnsetRate));
  for (std::size_t i = 0; i < input.size(); ++i)
    input[i] = begin + i < mono.size() && double(i) < 0.05 * kOnsetRate ? mono[begin + i] : 0.0f;
  double weighted = 0, total = 1e-12;
  const auto bins = fft.run();
  for (std::size_t k = 1; k < bins.size(); ++k) {
    const double magnitude = std::sqrt(double(std::norm(bins[k])));
    weighted += magnitude * double(k) * kOnsetRate / fft.size();
    total += magnitude;
  }
  return Hertz(weighted / total);
}

} // namespace

std::vector<Onset> OnsetFinder::find(const Sound& sound, JobContext& job) const {
  return find(resample(monoOf(sound), sound.rate(), Hertz(kOnsetRate)), job);
}

std::vector<Onset> OnsetFinder::find(std::span<const float> mono, JobContext& job) const {
  float loudest = 0;
  for (float v : mono) loudest = std::max(loudest, std::abs(v));
  if (loudest < 1e-4f) return {};
  const HitDetector detector(mono);
  if (job.cancelled()) return {};
  // Sensitivity ½ takes what is likelier struck than not; the ends are three nepers either way.
  const double sensitivity = std::clamp(m_parameters.sensitivity, 0.0, 1.0);
  const double least =
      1 / (1 + std::exp(-std::log(kStruck / (1 - kStruck)) - 6 * (0.5 - sensitivity)));
  struct Candidate {
    Onset onset;
    float struck;
  };
  Fft fft(2048), strokeFft(kStrokeSize);
  std::vector<Candidate> kept;
  const auto rises = detector.rises(0.03f, 0.02);
  const auto names = nameHits(rises, [&](std::size_t i) { return detector.featuresAt(rises[i]); });
  for (std::size_t i = 0; i < rises.size(); ++i) {
    const int frame = rises[i];
    const HitNamed& named = names[i];
    if (double(named.onset) < least) continue;
    Candidate next{{}, named.onset};
    next.onset.cut = Seconds(cutPoint(mono, frame / HitDetector::kFramesASecond));
    next.onset.at = next.onset.cut + Seconds(kBladeS);
    next.onset.hits = classesOf(named);
    next.onset.sure = surenessOf(named);
    next.onset.drums = drumsOf(named, next.onset.hits);
    // Of two that are too close the surer stays.
    if (!kept.empty() &&
        toMilliseconds(next.onset.cut - kept.back().onset.cut) < m_parameters.minimumGap) {
      if (next.struck > kept.back().struck) kept.back() = std::move(next);
      continue;
    }
    kept.push_back(std::move(next));
  }
  double top = -200;
  std::vector<Onset> onsets;
  for (auto& candidate : kept) {
    Onset& onset = candidate.onset;
    const auto from = toWhole<std::size_t>(onset.cut.value * kOnsetRate),
               to = std::min(mono.size(), from + toWhole<std::size_t>(0.1 * kOnsetRate));
    float peak = 1e-6f;
    for (std::size_t i = from; i < to; ++i) peak = std::max(peak, std::abs(mono[i]));
    onset.level = decibelsOf(peak);
    top = std::max(top, onset.level.value);
    onset.levels = levelsAt(mono, onset.cut.value, strokeFft);
    onset.brightness = brightnessAt(mono, onset.cut.value, fft);
    onsets.push_back(std::move(onset));
  }
  describeHits(mono, detector, onsets);
  // Below ½ soft hits are left out as well: at 0 what is over 9 dB under the loudest.
  if (sensitivity < 0.5)
    std::erase_if(
        onsets, [&](const Onset& onset) { return onset.level.value < top - 9 - 80 * sensitivity; });
  return onsets;
}

} // namespace tuvvo
