#include "listen/chords.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr std::size_t kNone = kChordNames - 1;
// What another chord costs, in nepers, inside a bar and on its first beat.
constexpr float kChange = 0.9f, kChangeOnOne = 0.2f;
constexpr float kPlainBass = 0.3f; ///< of what sounds below; from here on the bass is named
constexpr const char* kNames[] = {"C", "C#", "D", "D#", "E", "F", "F#", "G", "G#", "A", "A#", "B"};

/// The strongest note of the bass by its name; nothing where several are about as strong.
std::string bassOf(const Notes& notes) {
  std::array<float, 12> bass{};
  float sum = 1e-9f;
  for (int pitch = Harmony::kLowNote; pitch <= 51; ++pitch) {
    const float v = notes[std::size_t(pitch - Harmony::kLowNote)];
    bass[std::size_t(pitch % 12)] += v;
    sum += v;
  }
  const auto lowest = std::max_element(bass.begin(), bass.end());
  return *lowest > kPlainBass * sum ? kNames[lowest - bass.begin()] : "";
}

/// @param chord  of the names of a ToneSense; not kNone
std::string chordNameOf(std::size_t chord) {
  return std::string(kNames[chord / kHeardKinds]) +
         std::string(kChordKinds[chord % kHeardKinds].ending);
}

/// How likely each chord is over some stretches.
struct Likelihoods {
  std::array<float, kChordNames> sums{};
  int count = 0;

  void add(const std::array<float, kChordNames>& stretch) {
    ++count;
    for (std::size_t c = 0; c < sums.size(); ++c) sums[c] += stretch[c];
  }
  /// Says it of the chord that was heard there, and which is the likeliest other one.
  void tell(ChordHeard& heard, std::size_t chord) const {
    heard.confidence = std::clamp(double(sums[chord]) / count, 0.0, 1.0);
    std::size_t other = kNone;
    for (std::size_t c = 0; c < kNone; ++c)
      if (c != chord && sums[c] > sums[other]) other = c;
    heard.other = other == kNone ? std::string() : chordNameOf(other);
  }
};

/// The likeliest chord of each stretch, where to change costs something (Viterbi).
std::vector<std::size_t> bestPath(std::span<const std::array<float, kChordNames>> chords,
                                  const std::vector<bool>& downbeat) {
  using Row = std::array<float, kChordNames>;
  const auto said = [&](std::size_t i, std::size_t c) {
    return std::log(std::max(1e-6f, chords[i][c]));
  };
  Row best{};
  for (std::size_t c = 0; c < best.size(); ++c) best[c] = said(0, c);
  std::vector<std::array<std::uint8_t, kChordNames>> from(chords.size());
  for (std::size_t i = 1; i < chords.size(); ++i) {
    const auto top = std::max_element(best.begin(), best.end());
    const float change = *top - (downbeat[i] ? kChangeOnOne : kChange);
    Row next{};
    for (std::size_t c = 0; c < next.size(); ++c) {
      const bool stay = best[c] >= change;
      next[c] = said(i, c) + (stay ? best[c] : change);
      from[i][c] = std::uint8_t(stay ? std::ptrdiff_t(c) : top - best.begin());
    }
    best = next;
  }
  std::vector<std::size_t> path(chords.size());
  path.back() = std::size_t(std::max_element(best.begin(), best.end()) - best.begin());
  for (std::size_t i = path.size() - 1; i > 0; --i) path[i - 1] = from[i][path[i]];
  return path;
}

} // namespace

std::vector<ChordHeard> analyseChords(const ToneSense& sense, std::span<const Notes> notes,
                                      std::span<const Seconds> edges,
                                      const std::vector<bool>& downbeat) {
  if (notes.empty()) return {};
  const auto path = bestPath(sense.chords, downbeat);
  std::vector<ChordHeard> out;
  Likelihoods likely; // of the last of them
  for (std::size_t i = 0; i < path.size(); ++i) {
    if (path[i] == kNone) continue;
    const std::string name = chordNameOf(path[i]), low = bassOf(notes[i]);
    if (!out.empty() && out.back().name == name && out.back().bass == low &&
        out.back().end == edges[i]) {
      out.back().end = edges[i + 1];
    } else {
      out.push_back({edges[i], edges[i + 1], name, low});
      likely = {};
    }
    likely.add(sense.chords[i]);
    likely.tell(out.back(), path[i]);
  }
  return out;
}

std::vector<ChordHeard> overAnyBass(std::span<const ChordHeard> chords) {
  std::vector<ChordHeard> out;
  double longest = 0;
  for (const ChordHeard& chord : chords) {
    const double length = (chord.end - chord.start).value;
    if (out.empty() || out.back().name != chord.name || out.back().end != chord.start) {
      out.push_back(chord);
      longest = length;
      continue;
    }
    ChordHeard& whole = out.back();
    const double before = (whole.end - whole.start).value;
    whole.confidence =
        (whole.confidence * before + chord.confidence * length) / std::max(1e-9, before + length);
    whole.end = chord.end;
    if (length > longest) {
      longest = length;
      whole.other = chord.other;
    }
  }
  return out;
}

} // namespace tuvvo
