#include "tones/theory.h"

#include <algorithm>

namespace tuvvo {

namespace {

constexpr std::array<int, 7> kMajor{0, 2, 4, 5, 7, 9, 11}, kMinor{0, 2, 3, 5, 7, 8, 10};
constexpr int pitchClassOf(int note) { return (note % 12 + 12) % 12; }

} // namespace

std::array<int, 7> scaleOf(KeyName key) {
  std::array<int, 7> out{};
  for (std::size_t i = 0; i < 7; ++i)
    out[i] = pitchClassOf(key.tonic + (key.minor ? kMinor : kMajor)[i]);
  return out;
}

bool inScale(KeyName key, int pitchClass) {
  const auto scale = scaleOf(key);
  return std::find(scale.begin(), scale.end(), pitchClassOf(pitchClass)) != scale.end();
}

std::string romanOf(const ChordName& chord, KeyName key) {
  static constexpr std::array<const char*, 7> capital{"I", "II", "III", "IV", "V", "VI", "VII"},
      small{"i", "ii", "iii", "iv", "v", "vi", "vii"};
  const auto scale = scaleOf(key);
  std::string sign;
  std::size_t degree = 7;
  for (std::size_t i = 0; i < 7; ++i)
    if (scale[i] == chord.root) degree = i;
  if (degree == 7) { // between two degrees: the upper one lowered, as it is mostly called
    for (std::size_t i = 0; i < 7; ++i)
      if (scale[i] == pitchClassOf(chord.root + 1)) degree = i;
    sign = "b";
  }
  const bool low = chord.kind->steps[1] == 3;
  std::string ending(chord.kind->ending);
  if (ending == "dim")
    ending = "°";
  else if (low)
    ending.erase(0, 1); // the small letter says that it is minor
  return sign + (low ? small : capital)[degree] + ending;
}

std::vector<ChordName> chordsIn(KeyName key, bool sevenths) {
  const auto scale = scaleOf(key);
  std::vector<ChordName> out;
  for (std::size_t degree = 0; degree < 7; ++degree) {
    const auto above = [&](std::size_t thirds) {
      return pitchClassOf(scale[(degree + 2 * thirds) % 7] - scale[degree]);
    };
    const ChordKind* found = nullptr;
    for (const auto& kind : kChordKinds) {
      const bool triad = kind.steps[1] == above(1) && kind.steps[2] == above(2);
      const bool plain = kind.steps[3] < 0;
      if (triad && ((plain && !found) || (!plain && sevenths && kind.steps[3] == above(3))))
        found = &kind;
    }
    if (found) out.push_back({scale[degree], found});
  }
  return out;
}

bool hasTone(const ChordName& chord, int pitchClass) {
  const auto tones = chord.tones();
  return std::find(tones.begin(), tones.end(), pitchClassOf(pitchClass)) != tones.end();
}

ChordName transposed(ChordName chord, int semitones) {
  chord.root = pitchClassOf(chord.root + semitones);
  return chord;
}

std::vector<int> voiced(const ChordName& chord, int inversion, int lowest) {
  const auto tones = chord.tones();
  const auto count = int(tones.size()), first = (inversion % count + count) % count;
  std::vector<int> out;
  for (int i = 0; i < count; ++i)
    out.push_back(
        noteAbove(tones[std::size_t((first + i) % count)], out.empty() ? lowest : out.back() + 1));
  return out;
}

int noteAbove(int pitchClass, int lowest) { return lowest + pitchClassOf(pitchClass - lowest); }

int nearestTone(const ChordName& chord, int note) {
  for (int away = 0; away < 12; ++away)
    for (int near : {note - away, note + away})
      if (hasTone(chord, near)) return near;
  return note;
}

} // namespace tuvvo
