#include "tones/theory.h"

#include <algorithm>
#include <span>

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
  const bool low = chord.kind->third() == 3;
  std::string ending(chord.kind->ending);
  if (ending.starts_with("dim"))
    ending.replace(0, 3, "°");
  else if (ending == "m7b5")
    ending = "ø7";
  else if (low)
    ending.erase(0, 1); // the small letter says that it is minor
  const std::string bass = chord.bass < 0 ? "" : "/" + spelt(chord.bass, key);
  return sign + (low ? small : capital)[degree] + ending + bass;
}

std::vector<ChordName> chordsIn(KeyName key, bool sevenths) {
  const auto scale = scaleOf(key);
  std::vector<ChordName> out;
  for (std::size_t degree = 0; degree < 7; ++degree) {
    const auto above = [&](std::size_t thirds) {
      return pitchClassOf(scale[(degree + 2 * thirds) % 7] - scale[degree]);
    };
    const std::array all{0, above(1), above(2), above(3)};
    const auto wanted = std::span(all).first(sevenths ? 4 : 3);
    for (const auto& kind : kChordKinds)
      if (std::ranges::equal(kind.tones(), wanted)) out.push_back({scale[degree], &kind});
  }
  return out;
}

bool hasTone(const ChordName& chord, int pitchClass) {
  const auto tones = chord.tones();
  return std::find(tones.begin(), tones.end(), pitchClassOf(pitchClass)) != tones.end();
}

ChordName transposed(ChordName chord, int semitones) {
  chord.root = pitchClassOf(chord.root + semitones);
  if (chord.bass >= 0) chord.bass = pitchClassOf(chord.bass + semitones);
  return chord;
}

std::vector<int> voiced(const ChordName& chord, int inversion, int lowest, Voicing voicing) {
  std::vector<int> tones = chord.tones();
  const bool rootless = voicing == Voicing::Rootless && tones.size() > 1;
  if (chord.bass >= 0) std::erase(tones, chord.bass);
  if (rootless && tones.size() > 1) std::erase(tones, chord.root);
  if (chord.bass >= 0)
    std::sort(tones.begin(), tones.end(), [&](int a, int b) {
      return pitchClassOf(a - chord.bass) < pitchClassOf(b - chord.bass);
    });
  const auto count = int(tones.size());
  std::rotate(tones.begin(), tones.begin() + (inversion % count + count) % count, tones.end());
  if (chord.bass >= 0 && !rootless) tones.insert(tones.begin(), chord.bass);
  std::vector<int> out;
  for (int tone : tones) out.push_back(noteAbove(tone, out.empty() ? lowest : out.back() + 1));
  const bool spread = voicing == Voicing::Spread;
  if ((voicing == Voicing::Open || spread) && out.size() > 2) out[1] += 12;
  if (spread)
    for (std::size_t i = 1; i < out.size(); ++i) out[i] += 12;
  std::sort(out.begin(), out.end());
  return out;
}

int stepped(int note, int steps, KeyName key) {
  const auto scale = scaleOf(key);
  // Places of the scale's notes from the tonic on, rising through octaves.
  const auto noteOfPlace = [&](int place) {
    const int octave = (place >= 0 ? place : place - 6) / 7;
    const int degree = place - octave * 7;
    return key.tonic + octave * 12 + pitchClassOf(scale[std::size_t(degree)] - key.tonic);
  };
  int place = (note - key.tonic) / 12 * 7 - 7;
  while (noteOfPlace(place + 1) <= note) ++place;
  const int between = note - noteOfPlace(place), to = place + steps;
  return noteOfPlace(to) + std::min(between, noteOfPlace(to + 1) - noteOfPlace(to) - 1);
}

int noteAbove(int pitchClass, int lowest) { return lowest + pitchClassOf(pitchClass - lowest); }

int nearestTone(const ChordName& chord, int note) {
  for (int away = 0; away < 12; ++away)
    for (int near : {note - away, note + away})
      if (hasTone(chord, near)) return near;
  return note;
}

} // namespace tuvvo
