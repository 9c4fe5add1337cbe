// MIDI files drawn from few values, so that notes meet lines, each other and the ends of ranges.
#pragma once

#include "sweeps/world.h"

namespace tuvvo::test {

using Bytes = std::vector<std::uint8_t>;

inline void addBytes(Bytes& to, std::initializer_list<int> bytes) {
  for (int byte : bytes) to.push_back(std::uint8_t(byte));
}

/// A length of time as the format writes it (Standard MIDI Files 1.0): seven bits a byte.
inline void addMidiTime(Bytes& to, int ticks) {
  if (ticks >= 128) to.push_back(std::uint8_t(0x80 | (ticks >> 7)));
  to.push_back(std::uint8_t(ticks & 127));
}

/// @param kept  no tempo but the usual one, 120 to the minute
inline Bytes drawnMidiTrack(Random& random, int division, bool kept) {
  Bytes out;
  for (int i = 0; i < 40; ++i) {
    addMidiTime(out, oneOf(random, {0, 0, division / 4, division / 2, division, division / 3,
                                    division * 2 / 5, 7}));
    const int channel = oneOf(random, {9, 9, 9, 0, 3});
    const int note = channel == 9 ? 34 + int(random.next() % 50) : int(random.next() % 128);
    switch (random.next() % 12) {
    case 0:
      if (kept)
        addBytes(out, {0xff, 0x01, 1, 't'});
      else
        addBytes(out, {0xff, 0x51, 3, 5 + int(random.next() % 8), 0x10, 0});
      break;
    case 1:
      addBytes(out, {0xff, 0x58, 4, oneOf(random, {3, 4, 7}), oneOf(random, {2, 3}), 24, 8});
      break;
    case 2:
      addBytes(out, {0xff, 0x06, 2, 'a', 'b'});
      break;
    case 3:
      addBytes(out, {0xb0 + channel, int(random.next() % 128), 64});
      break;
    case 4:
      addBytes(out, {0xf0, 2, 1, 0xf7});
      break;
    case 5:
      addBytes(out, {0x80 + channel, note, 0});
      break;
    default:
      addBytes(out, {0x90 + channel, note, oneOf(random, {0, 1, 64, 100, 127})});
    }
  }
  addMidiTime(out, 0);
  addBytes(out, {0xff, 0x2f, 0});
  return out;
}

inline Bytes drawnMidiFile(std::uint64_t seed) {
  Random random(seed);
  const int tracks = 1 + int(random.next() % 3), division = oneOf(random, {24, 96, 480, 960});
  // In frames of film at times: 24, 25, 29.97 or 30 a second, 20 ticks each.
  const int film = seed % 5 == 4 ? 256 - oneOf(random, {24, 25, 29, 30}) : 0;
  Bytes out;
  addBytes(out, {'M', 'T', 'h', 'd', 0, 0, 0, 6, 0, tracks > 1, 0, tracks,
                 film ? film : division >> 8, film ? 20 : division & 255});
  for (int i = 0; i < tracks; ++i) {
    const Bytes track = drawnMidiTrack(random, division, seed % 3 == 0);
    addBytes(out, {'M', 'T', 'r', 'k', 0, 0, int(track.size() >> 8), int(track.size() & 255)});
    out.insert(out.end(), track.begin(), track.end());
  }
  return out;
}

} // namespace tuvvo::test
