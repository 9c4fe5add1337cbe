// What a hand adds to a key: how hard, and one sound spread over the whole deck. Pure.
#pragma once

#include "base/random.h"
#include "model/project.h"

namespace tuvvo {

/// What differs from key to key when one sound lies under all 32.
enum class SpreadBy { Semitones, Scale, Velocity, Start, Length, Brightness };

/// One hit as a hand makes it.
struct PerformanceHit {
  double velocity = 0.8; ///< above 0 to 1
  Semitones tune{0};     ///< on top of the key's own
  double start = 0;      ///< share of the sound where it begins; 0 to kLatestStart
  double length = 0;     ///< share of the sound after which it is let go; 0: by hand
  double bright = 0;     ///< octaves by which the low-pass moves
  bool operator==(const PerformanceHit&) const = default;
};

/// The hit of one key of a spread, from the lower left (0) to the upper right (31).
/// Semitones: the sound's own pitch lies on the left of the Body row, so from −8 to +23.
/// Scale: every row is an octave of the beat's key from tonic to tonic; the left of the Body row is
/// the tonic nearest to the sound's own note (to the sound itself where either is not known).
/// Velocity: in 32 even steps to the hardest. Start: in 32 even steps through the sound. Length:
/// from a 32nd of the sound to all of it. Brightness: the low-pass from 125 Hz to open, evenly by
/// octaves.
/// @param velocity  of the hand, where the spread is not by velocity
/// @param key       of the beat
/// @param root      of the sound at the key's own tune; 0 for none
[[nodiscard]] PerformanceHit spreadHit(SpreadBy by, int row, int column, double velocity,
                                       const std::optional<KeyName>& key, Hertz root);

/// The pitch of what a key plays, its tune and its source's shift with it; 0 where the sound has no
/// one note.
[[nodiscard]] Hertz rootOf(const Project& project, const Key& key);

/// A soft hand: velocities that differ a little, the same every time from the same seed.
class SoftHand {
public:
  explicit SoftHand(std::uint64_t seed) : m_random(seed) {}
  /// @param spread  about two thirds of all hits lie this near to the velocity; 0 to 0.5
  [[nodiscard]] double next(double velocity, double spread);

private:
  Random m_random;
};

} // namespace tuvvo
