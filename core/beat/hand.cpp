#include "beat/hand.h"

#include <algorithm>
#include <array>
#include <cmath>

namespace tuvvo {

namespace {

constexpr int kKeys = 32;
// Major and natural minor, in semitones above the tonic.
constexpr std::array<int, 7> kMajor{0, 2, 4, 5, 7, 9, 11}, kMinor{0, 2, 3, 5, 7, 8, 10};

/// From a note to the tonic next to it, −6 to +5.99.
double toTonic(const std::optional<KeyName>& key, Hertz root) {
  if (!key || root.value <= 0) return 0;
  const double away = key->tonic - midiNoteOf(root);
  return away - 12 * std::round(away / 12);
}

} // namespace

PerformanceHit spreadHit(SpreadBy by, int row, int column, double velocity,
                         const std::optional<KeyName>& key, Hertz root) {
  const int fromBelow = int(Row::Floor) - row, place = fromBelow * kColumns + column;
  PerformanceHit hit;
  hit.velocity = velocity;
  switch (by) {
  case SpreadBy::Semitones:
    hit.tune = Semitones(place - kColumns);
    break;
  case SpreadBy::Scale: {
    const auto& scale = key && key->minor ? kMinor : kMajor;
    const int octave = fromBelow - 1 + column / 7;
    hit.tune = Semitones(toTonic(key, root) + 12 * octave + scale[std::size_t(column % 7)]);
    break;
  }
  case SpreadBy::Velocity:
    hit.velocity = double(place + 1) / kKeys;
    break;
  case SpreadBy::Start:
    hit.start = double(place) / kKeys;
    break;
  case SpreadBy::Length:
    hit.length = double(place + 1) / kKeys;
    break;
  case SpreadBy::Brightness: // 20 kHz is 7.32 octaves over 125 Hz
    hit.bright = -std::log2(20'000.0 / 125) * double(kKeys - 1 - place) / (kKeys - 1);
    break;
  }
  return hit;
}

Hertz rootOf(const Project& project, const Key& key) {
  const Source* source = findSource(project, key.sound.source);
  if (!source || !source->heard || source->heard->root.value <= 0) return Hertz(0);
  const Semitones shift = key.tune + toSemitones(key.fine) + key.own.tune;
  return Hertz(source->heard->root.value * ratioOf(shift) * source->shape.pitch());
}

double SoftHand::next(double velocity, double spread) {
  return std::clamp(velocity + spread * m_random.bell(), 0.05, 1.0);
}

} // namespace tuvvo
