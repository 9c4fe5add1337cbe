// Which place of the lattice is a beat, which beat is the first of a bar, how many make a bar.
#pragma once

#include "listen/harmony.h"
#include "listen/pulse.h"

namespace tuvvo {

/// What happens on each division of the beat, folded to a bar: the low, middle and high onsets; how
/// much the harmony and the bass change there, over one, two and four beats.
struct BarPicture {
  static constexpr int kFeatures = 9;
  int beatsPerBar = 4, perBeat = 4;
  /// features × slots, each the logarithm of its share of the feature's mean, centred
  std::array<std::vector<double>, kFeatures> slots;
};
[[nodiscard]] BarPicture pictureOf(const OnsetStrength& strength, const Harmony& harmony,
                                   const Pulse& pulse, double durationS, int beatsPerBar);

struct Bars {
  int meter = 4;
  bool compound = false;    ///< all three parts of a beat are played: 6/8, 9/8, 12/8
  double firstDownbeat = 0; ///< position in the pulse's beats; beats stand whole numbers from it
  double margin = 0;        ///< by how much it is likelier than the next, in nepers
};

/// Correlates the bar's picture at every rotation with a learnt pattern: lows on one, middles on
/// two and four, harmony changing on one.
/// @param startsOnOne  a loop: the first frame is a downbeat unless much speaks against it
[[nodiscard]] Bars findBars(const OnsetStrength& strength, const Harmony& harmony,
                            const Pulse& pulse, double durationS, bool startsOnOne);

} // namespace tuvvo
