#include "listen/key.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kLeastAgreement = 0.12, kLeastTonal = 0.1; ///< less is no tone

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

std::optional<KeyHeard> analyseKey(const Harmony& harmony, const ToneSense& sense,
                                   std::span<const Notes> notes) {
  if (harmony.agreement < kLeastAgreement || harmony.tonal < kLeastTonal || notes.empty())
    return std::nullopt;
  constexpr std::size_t none = kKeyNames - 1;
  if (sense.key[none] > 0.5f) return std::nullopt;
  std::vector<std::pair<float, KeyName>> ranked;
  for (std::size_t k = 0; k < none; ++k)
    ranked.emplace_back(sense.key[k], KeyName{int(k % 12), k >= 12});
  std::sort(ranked.rbegin(), ranked.rend());
  std::array<double, 12> chroma{};
  for (const auto& each : notes)
    for (int note = 0; note < Harmony::kNotes; ++note)
      chroma[std::size_t((note + Harmony::kLowNote) % 12)] += double(each[std::size_t(note)]);
  KeyHeard heard;
  heard.name = ranked[0].second;
  heard.confidence = std::clamp(double(ranked[0].first), 0.05, 0.98);
  heard.alternatives = {ranked[1].second, ranked[2].second};
  heard.tuning = harmony.tuning;
  heard.mode = modeOf(chroma, heard.name);
  return heard;
}

} // namespace tuvvo
