#include "listen/content.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kLeastLows = 0.12, kLeastTones = 0.3, kLeastMids = 0.35;
constexpr double kFewDrums = 0.45;         ///< a second; about one a bar
constexpr double kBusy = 5.5, kCalm = 1.5; ///< onsets a second
constexpr double kHalfSecond = 0.5;        ///< where there are no beats

/// Every beat inside, or every half second.
std::vector<double> placesIn(const Analysis& heard, Seconds from, Seconds to) {
  std::vector<double> out;
  for (const Seconds beat : heard.beats)
    if (beat > from && beat < to) out.push_back(beat.value);
  if (heard.beats.size() < 2)
    for (double at = from.value + kHalfSecond; at < to.value; at += kHalfSecond) out.push_back(at);
  return out;
}

/// How unlike two stretches are in how loud they are and where their power lies, 0 to 1; what is 60
/// dB under the other one is as good as silence.
double changeBetween(const Harmony::Power& before, const Harmony::Power& after) {
  const double floor = 1e-6 * std::max(before.all, after.all) + 1e-12;
  const double x = std::max(floor, before.all), y = std::max(floor, after.all);
  const double moved = std::abs(before.lows / x - after.lows / y) +
                       std::abs(before.voices / x - after.voices / y) +
                       std::abs(before.tones / x - after.tones / y);
  return std::min(1.0, moved / 2 + std::abs(10 * std::log10(x / y)) / 24);
}

/// Four digits: finer than any of it is worth.
double fourDigits(double v) { return std::round(v * 1e4) / 1e4; }

} // namespace

Content contentOf(const Analysis& heard, const Harmony& harmony, Seconds from, Seconds to) {
  const Seconds length = to - from;
  const auto power = harmony.powerBetween(from.value, to.value);
  if (length.value <= 0 || power.all <= 1e-9) return {};
  Content out;
  const auto whole = harmony.powerBetween(0, heard.duration.value);
  out.level = Decibels(10 * std::log10(power.all / length.value /
                                       (whole.all / std::max(1e-6, heard.duration.value))));
  for (const auto& onset : heard.onsets) {
    if (onset.at < from || onset.at >= to) continue;
    out.onsets += 1 / length.value;
    if (std::any_of(onset.hits.begin(), onset.hits.end(),
                    [](HitClass hit) { return hit != HitClass::Other; }))
      out.drums += 1 / length.value;
  }
  out.lows = power.lows / power.all;
  out.voices = power.voices / power.all;
  out.tones = power.tones / power.all;
  const auto places = placesIn(heard, from, to);
  const double step = places.size() > 1
                          ? (places.back() - places.front()) / double(places.size() - 1)
                          : kHalfSecond;
  for (const double at : places)
    out.changes +=
        changeBetween(harmony.powerBetween(at - step, at), harmony.powerBetween(at, at + step)) /
        double(places.size());
  out.level.value = fourDigits(out.level.value);
  for (double* v : {&out.onsets, &out.drums, &out.lows, &out.voices, &out.tones, &out.changes})
    *v = fourDigits(*v);
  return out;
}

ContentWords wordsOf(const Content& content) {
  const bool silent = content == Content{};
  return {content.lows > kLeastLows, content.drums > kFewDrums, content.onsets > kBusy,
          !silent && content.onsets<kCalm, content.tones> kLeastTones, content.voices > kLeastMids};
}

} // namespace tuvvo
