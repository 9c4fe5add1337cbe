#include "listen/key.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

// Krumhansl & Kessler (1982), as printed in Krumhansl, Cognitive Foundations of Musical Pitch,
// 1990.
constexpr std::array<double, 12> kKrumhanslMajor{6.35, 2.23, 3.48, 2.33, 4.38, 4.09,
                                                 2.52, 5.19, 2.39, 3.66, 2.29, 2.88};
constexpr std::array<double, 12> kKrumhanslMinor{6.33, 2.68, 3.52, 5.38, 2.60, 3.53,
                                                 2.54, 4.75, 3.98, 2.69, 3.34, 3.17};
// Albrecht & Shanahan (2013), Music Perception 31(1), table 2; quoted from memory.
constexpr std::array<double, 12> kAlbrechtMajor{.238, .006, .111, .006, .137, .094,
                                                .016, .214, .009, .080, .008, .081};
constexpr std::array<double, 12> kAlbrechtMinor{.220, .006, .104, .123, .019, .103,
                                                .012, .214, .062, .022, .061, .052};

double correlation(const std::array<double, 12>& chroma, const std::array<double, 12>& profile,
                   int tonic) {
  double mc = 0, mp = 0;
  for (std::size_t i = 0; i < 12; ++i) {
    mc += chroma[i] / 12;
    mp += profile[i] / 12;
  }
  double cross = 0, cc = 1e-12, pp = 1e-12;
  for (int i = 0; i < 12; ++i) {
    const double c = chroma[std::size_t((i + tonic) % 12)] - mc, p = profile[std::size_t(i)] - mp;
    cross += c * p;
    cc += c * c;
    pp += p * p;
  }
  return cross / std::sqrt(cc * pp);
}

/// The church mode on the tonic, where its one tone is plainly heard instead of the scale's own:
/// at least two and a half times as strong, and not just passing by. (The modes' definitions are
/// theory of music; the two thresholds are common practice, no source.)
std::string modeOf(const std::array<double, 12>& chroma, KeyName key) {
  double mean = 0;
  for (double v : chroma) mean += v / 12;
  const auto degree = [&](int semitones) {
    return chroma[std::size_t((key.tonic + semitones) % 12)];
  };
  const auto instead = [&](int sounds, int usual) {
    return degree(sounds) > 0.35 * mean && degree(sounds) > 2.5 * degree(usual);
  };
  if (key.minor) {
    if (instead(1, 2)) return "phrygian";
    return instead(9, 8) ? "dorian" : "";
  }
  if (instead(6, 5)) return "lydian";
  return instead(10, 11) ? "mixolydian" : "";
}

} // namespace

std::optional<KeyHeard> analyseKey(const Harmony& harmony, std::span<const Notes> notes) {
  if (harmony.agreement < 0.12 || harmony.tonal < 0.1 || notes.empty()) return std::nullopt;
  std::array<double, 12> chroma{}, bass{};
  double bassSum = 1e-12;
  for (const auto& each : notes)
    for (int note = 0; note < Harmony::kNotes; ++note) {
      const int pitch = note + Harmony::kLowNote;
      const double v = double(each[std::size_t(note)]);
      chroma[std::size_t(pitch % 12)] += v;
      if (pitch <= 51) {
        bass[std::size_t(pitch % 12)] += v;
        bassSum += v;
      }
    }
  std::vector<std::pair<double, KeyName>> ranked;
  for (int tonic = 0; tonic < 12; ++tonic)
    for (bool minor : {false, true}) {
      const double score =
          0.75 * correlation(chroma, minor ? kKrumhanslMinor : kKrumhanslMajor, tonic) +
          0.25 * correlation(chroma, minor ? kAlbrechtMinor : kAlbrechtMajor, tonic) +
          0.1 * bass[std::size_t(tonic)] / bassSum;
      ranked.emplace_back(score, KeyName{tonic, minor});
    }
  std::sort(ranked.rbegin(), ranked.rend());
  if (ranked[0].first < 0.35) return std::nullopt;
  KeyHeard heard;
  heard.name = ranked[0].second;
  // A margin of .05 between the best two is where answers become trustworthy.
  heard.confidence = std::clamp((ranked[0].first - ranked[1].first) / 0.1, 0.05, 0.98);
  heard.alternatives = {ranked[1].second, ranked[2].second};
  heard.tuning = harmony.tuning;
  heard.mode = modeOf(chroma, heard.name);
  return heard;
}

} // namespace tuvvo
