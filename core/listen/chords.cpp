#include "listen/chords.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

/// For each of kChordKinds: plain chords are commoner (common practice, no source).
constexpr std::array<double, kChordKinds.size()> kPriors{0.04,  0.04, -0.03, -0.02,
                                                         -0.02, 0.0,  0.0,   0.0};
constexpr int kChords = 12 * int(kChordKinds.size()), kNone = kChords;
constexpr double kNoneScore = 0.55, kChange = 0.16, kChangeOnOne = 0.06, kInKey = 0.03,
                 kBassOnRoot = 0.3, kBassOnTone = 0.1, kSeventh = 0.6;
constexpr const char* kNames[] = {"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"};

struct Chroma {
  std::array<double, 12> treble{}, bass{};
};

Chroma chromaOf(const Notes& notes) {
  Chroma out;
  double bassSum = 1e-9;
  for (int note = 0; note < Harmony::kNotes; ++note) {
    const int pitch = note + Harmony::kLowNote;
    const double v = double(notes[std::size_t(note)]);
    if (pitch >= 48) out.treble[std::size_t(pitch % 12)] += v;
    if (pitch <= 51) {
      out.bass[std::size_t(pitch % 12)] += v;
      bassSum += v;
    }
  }
  for (double& v : out.bass) v /= bassSum;
  // A chord's root is often in the bass alone.
  for (std::size_t k = 0; k < 12; ++k) out.treble[k] += 0.4 * out.bass[k] * bassSum;
  return out;
}

/// Whether every tone of a chord belongs to the key (minor: with the raised seventh as well).
bool inKey(int root, const ChordKind& kind, KeyName key) {
  static constexpr std::array<bool, 12> major{1, 0, 1, 0, 1, 1, 0, 1, 0, 1, 0, 1};
  static constexpr std::array<bool, 12> minor{1, 0, 1, 1, 0, 1, 0, 1, 1, 0, 1, 1};
  for (int step : kind.steps)
    if (step >= 0 && !(key.minor ? minor : major)[std::size_t((root + step - key.tonic + 24) % 12)])
      return false;
  return true;
}

std::array<double, kChords + 1> scoresOf(const Chroma& chroma, const std::optional<KeyHeard>& key) {
  std::array<double, kChords + 1> out{};
  double norm = 1e-9;
  for (double v : chroma.treble) norm += v * v;
  norm = std::sqrt(norm);
  for (int root = 0; root < 12; ++root)
    for (std::size_t k = 0; k < kChordKinds.size(); ++k) {
      const ChordKind& kind = kChordKinds[k];
      double dot = 0, own = 0, bass = 0;
      for (std::size_t i = 0; i < 4; ++i) {
        if (kind.steps[i] < 0) continue;
        const auto at = std::size_t((root + kind.steps[i]) % 12);
        const double weight = i == 3 ? kSeventh : 1.0;
        dot += weight * chroma.treble[at];
        own += weight * weight;
        bass += (i == 0 ? kBassOnRoot : kBassOnTone) * chroma.bass[at];
      }
      double score = dot / (norm * std::sqrt(own)) + bass + kPriors[k];
      if (key && key->confidence >= 0.3 && inKey(root, kind, key->name)) score += kInKey;
      out[std::size_t(root) * kChordKinds.size() + k] = score;
    }
  out[kNone] = norm > 1e-6 ? kNoneScore : 2.0;
  return out;
}

} // namespace

std::vector<ChordHeard> analyseChords(std::span<const Notes> notes, std::span<const Seconds> edges,
                                      const std::vector<bool>& downbeat,
                                      const std::optional<KeyHeard>& key) {
  const std::size_t count = notes.size();
  if (count == 0) return {};
  std::vector<Chroma> chroma;
  for (const auto& each : notes) chroma.push_back(chromaOf(each));
  using Row = std::array<double, kChords + 1>;
  Row best = scoresOf(chroma[0], key);
  std::vector<std::array<std::int16_t, kChords + 1>> from(count);
  for (std::size_t i = 1; i < count; ++i) {
    const Row here = scoresOf(chroma[i], key);
    const auto top = std::max_element(best.begin(), best.end());
    const double change = *top - (downbeat[i] ? kChangeOnOne : kChange);
    Row next{};
    for (std::size_t c = 0; c < next.size(); ++c) {
      const bool stay = best[c] >= change;
      next[c] = here[c] + (stay ? best[c] : change);
      from[i][c] = std::int16_t(stay ? std::ptrdiff_t(c) : top - best.begin());
    }
    best = next;
  }
  std::vector<int> path(count);
  path.back() = int(std::max_element(best.begin(), best.end()) - best.begin());
  for (std::size_t i = count - 1; i > 0; --i) path[i - 1] = from[i][std::size_t(path[i])];
  std::vector<ChordHeard> out;
  for (std::size_t i = 0; i < count; ++i) {
    if (path[i] == kNone) continue;
    const auto root = std::size_t(path[i]) / kChordKinds.size();
    const ChordKind& kind = kChordKinds[std::size_t(path[i]) % kChordKinds.size()];
    const auto& bass = chroma[i].bass;
    const auto lowest = std::size_t(std::max_element(bass.begin(), bass.end()) - bass.begin());
    const std::string name = std::string(kNames[root]) + std::string(kind.ending);
    const std::string low = bass[lowest] > 0.3 ? kNames[lowest] : "";
    if (!out.empty() && out.back().name == name && out.back().bass == low &&
        out.back().end == edges[i])
      out.back().end = edges[i + 1];
    else
      out.push_back({edges[i], edges[i + 1], name, low});
  }
  return out;
}

} // namespace tuvvo
