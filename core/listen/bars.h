// Which place of the lattice is a beat, which beat is the first of a bar, how many make a bar.
#pragma once

#include "listen/beat_sense.h"
#include "listen/harmony.h"
#include "listen/pulse.h"

namespace tuvvo {

/// What happens on each division of the beat, folded to a bar: the low, middle and high onsets; how
/// much the harmony and the bass change there, over one, two and four beats; how likely a beat and
/// a first beat are sensed there.
struct BarPicture {
  static constexpr int kHeard = 9, kFeatures = 11;
  /// features × slots, each the logarithm of its share of the feature's mean, of those sensed the
  /// mean log odds, centred
  std::array<std::vector<double>, kFeatures> slots;
};

/// What speaks for a number of beats in a bar.
struct MeterEvidence {
  int meter = 4;
  double again = 0, later = 0; ///< how alike what happens is a bar and two bars later, 0 to 1
  /// By how much a first beat is sensed more on the best of every so many beats than on the others,
  /// in nepers.
  double stress = 0;
  double whole = 0; ///< 1 where the sound is a whole number of such bars long
};
inline constexpr int kFewestBeats = 2, kMostBeats = 7; ///< in a bar

/// Searches the bars on one lattice of beats. Holds what happens on its divisions.
class BarFinder {
public:
  BarFinder(const OnsetStrength& strength, const BeatSense& sense, const Harmony& harmony,
            const Pulse& pulse, Seconds duration);

  /// All three parts of a beat are played: 6/8, 9/8, 12/8.
  [[nodiscard]] bool compound() const;
  /// For as many meters as the sound is long enough for.
  [[nodiscard]] std::vector<MeterEvidence> meterEvidence() const;
  /// The likeliest by learnt weights; 4 for what is too short.
  [[nodiscard]] int meter() const;
  [[nodiscard]] BarPicture picture(int beatsPerBar) const;
  /// Correlates the bar's picture at every rotation with a learnt pattern: lows on one, middles on
  /// two and four, harmony changing on one.
  /// @param startsOnOne  a loop: the first frame is a downbeat unless much speaks against it
  /// @returns a position in the pulse's beats; beats stand whole numbers from it
  [[nodiscard]] double firstDownbeat(int meter, bool startsOnOne) const;

private:
  using Row = std::array<double, BarPicture::kFeatures>;
  [[nodiscard]] Row rowAt(const OnsetStrength& strength, const BeatSense& sense,
                          const Harmony& harmony, double beats) const;
  [[nodiscard]] double repeats(long lag) const;
  [[nodiscard]] double stress(int meter) const;

  const Pulse& m_pulse;
  double m_durationS;
  int m_perBeat;
  long m_first = 0; ///< number of the first row's slot
  std::vector<Row> m_rows;
};

} // namespace tuvvo
