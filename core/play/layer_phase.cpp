#include "play/layer_phase.h"

#include "model/edits.h"
#include "play/voice.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr int kLooked = 19200;  ///< frames: 400 ms
constexpr int kFarthest = 480;  ///< frames a delay is looked for: 10 ms
constexpr int kStep = 12;       ///< a quarter of a millisecond
constexpr double kSofter = 10;  ///< dB: what is softer takes nothing away
constexpr double kApartMs = 30; ///< what comes so much later is another hit
constexpr double kNearlyAsGood = 0.9;
constexpr double kHasLows = 0.02; ///< of its power: what has less is bright

/// One layer, both sides together.
Samples playedOnce(const Patch& patch, const SincBank& sincs) {
  Samples left(kLooked, 0.0f), right(kLooked, 0.0f);
  Voice voice;
  Voice::Start start;
  start.patch = &patch;
  start.wait = patch.delay;
  if (!patch.sound || patch.end <= patch.start) return left;
  voice.start(start, sincs);
  for (int at = 0; at < kLooked && voice.sounding(); at += kQuantum)
    (void)voice.render(left.data() + at, right.data() + at, std::min(kQuantum, kLooked - at));
  for (std::size_t i = 0; i < left.size(); ++i) left[i] += right[i];
  return left;
}

Samples lowsOf(Samples left) {
  Samples right = left;
  PatchFilters lows;
  lows.low.corner = kPhaseLows.value;
  for (int twice = 0; twice < 2; ++twice) { // 24 dB an octave
    VoiceFilter filter;
    filter.start(lows, 0);
    filter.run(left.data(), right.data(), kLooked);
  }
  return left;
}

/// What two have in common, the second one so many frames later.
double product(const Samples& a, const Samples& b, int later) {
  double sum = 0;
  const int from = std::max(0, later), until = kLooked + std::min(0, later);
  for (int i = from; i < until; ++i)
    sum += double(a[std::size_t(i)]) * double(b[std::size_t(i - later)]);
  return sum;
}

/// Of two powers and what they have in common: how far the sum stays under both.
Decibels lostOf(double a, double b, double common) {
  return Decibels(10 * std::log10((a + b) / std::max(1e-9 * (a + b), a + b + 2 * common)));
}

struct Pair {
  const Samples &first, &second;
  double powerFirst, powerSecond;
};

LayersCancel mended(const Pair& pair, double common) {
  double best = -1e30;
  int later = 0;
  for (int at = -kFarthest; at <= kFarthest; at += kStep)
    if (const double there = product(pair.first, pair.second, at); there > best) {
      best = there;
      later = at;
    }
  LayersCancel out;
  out.lost = lostOf(pair.powerFirst, pair.powerSecond, common);
  out.polarity = -common >= kNearlyAsGood * best;
  out.by = Milliseconds(std::abs(later) / (kEngineRate.value / 1000));
  out.after = lostOf(pair.powerFirst, pair.powerSecond, out.polarity ? -common : best);
  out.later = later >= 0 ? 1 : 0; // of the two
  return out;
}

} // namespace

std::optional<LayersCancel> layersCancel(const Project& project, const Key& key) {
  if (key.layers.empty() || key.mode != LayerMode::Together) return std::nullopt;
  Project alone = project;
  alone.keys = {key};
  alone.patterns.clear(); // nothing is struck
  const Score score = compilePattern(alone, 0);
  const int count = int(score.patches.size());
  const SincBank sincs(SincBank::Make::AsNeeded);
  std::vector<Samples> lows;
  std::vector<double> powers;
  for (const Patch& patch : score.patches) {
    const Samples whole = playedOnce(patch, sincs);
    lows.push_back(lowsOf(whole));
    const double power = product(lows.back(), lows.back(), 0);
    powers.push_back(power < kHasLows * product(whole, whole, 0) ? 0 : power);
  }
  std::optional<LayersCancel> worst;
  for (int i = 0; i < count; ++i)
    for (int j = i + 1; j < count; ++j) {
      const double a = powers[std::size_t(i)], b = powers[std::size_t(j)];
      if (a <= 0 || b <= 0 || std::abs(10 * std::log10(a / b)) > kSofter) continue;
      const EngineFrames apart =
          score.patches[std::size_t(j)].delay - score.patches[std::size_t(i)].delay;
      if (std::abs(double(apart.value)) > kApartMs * kEngineRate.value / 1000) continue;
      const Pair pair{lows[std::size_t(i)], lows[std::size_t(j)], a, b};
      const double common = product(pair.first, pair.second, 0);
      const Decibels lost = lostOf(a, b, common);
      if (lost < kWorthMending || (worst && lost <= worst->lost)) continue;
      worst = mended(pair, common);
      worst->first = i;
      worst->second = j;
      worst->later = worst->later == 1 ? j : i;
    }
  return worst;
}

Project withPhaseMended(Project project, Id id, const LayersCancel& how) {
  return withKeyChanged(std::move(project), id, [&](Key& key) {
    if (how.polarity) {
      LayerPlay& play = playOf(key, how.second);
      play.inverted = !play.inverted;
    } else {
      playOf(key, how.later).delay.value += how.by.value;
    }
  });
}

} // namespace tuvvo
