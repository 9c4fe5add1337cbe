// How loud slices are, and bringing them together.
#pragma once

#include "model/project.h"

#include <functional>
#include <map>
#include <mutex>
#include <tuple>

namespace tuvvo {

/// Loudness of stretches, measured once each. Any thread.
class LoudnessCache {
public:
  /// LUFS, −infinity for silence; see loudnessOf().
  double of(const Sound& sound, Frames start, Frames end);
  /// The largest absolute sample.
  float peakOf(const Sound& sound, Frames start, Frames end);

private:
  using Place = std::tuple<std::string, std::int64_t, std::int64_t>;
  static Place placeOf(const Sound& sound, Frames start, Frames end) {
    return {sound.hash(), start.value, end.value};
  }
  std::mutex m_mutex;
  std::map<Place, double> m_known;
  std::map<Place, float> m_peaks;
};

/// What of a slice counts: all of it, or its first 120 ms, which is what a drum is judged by
/// (common practice, no source).
enum class LevelBy { Whole, Attack };

/// Keys that play cuts of a source, in the order of the deck.
/// @param wanted  asked for the cut; empty: all
[[nodiscard]] std::vector<Id> slicesOf(const Project& project, Id source,
                                       const std::function<bool(Id)>& wanted = {});

struct SliceLevel {
  Id key = 0;
  double lufs = 0; ///< of the slice as cut and trimmed, the key's level included
  double peak = 0; ///< dBFS, the key's level included
};
/// Silent slices (below −60 LUFS) are left out, and keys without a sound.
[[nodiscard]] std::vector<SliceLevel> levelsOf(const Project& project, const std::vector<Id>& keys,
                                               LevelBy by, LoudnessCache& loudness);

/// The loudest over the quietest; 0 for fewer than two.
struct LevelSpread {
  double lu = 0;
  std::string loudest, quietest; ///< key names
};
[[nodiscard]] LevelSpread levelSpread(const Project& project, const std::vector<Id>& keys,
                                      LevelBy by, LoudnessCache& loudness);

struct LevelMatch {
  LevelBy by = LevelBy::Whole;
  Id to = 0; ///< the key whose loudness the others take; 0: the median of all
};
/// Sets the levels of keys so that all come out equally loud; none above +12 dB, and none raised
/// beyond full scale.
[[nodiscard]] Project withLevelsMatched(const Project& project, const std::vector<Id>& keys,
                                        const LevelMatch& match, LoudnessCache& loudness);

/// Sets each key's level so that its slice peaks at −1 dBFS.
[[nodiscard]] Project withPeaksNormalised(const Project& project, const std::vector<Id>& keys,
                                          LoudnessCache& loudness);
/// Sets each key's level so that its slice comes to −16 LUFS, a beat's usual middle (common
/// practice, no source), within the bounds of withLevelsMatched().
[[nodiscard]] Project withLoudnessNormalised(const Project& project, const std::vector<Id>& keys,
                                             LevelBy by, LoudnessCache& loudness);

inline constexpr double kNormalPeakDb = -1, kNormalLufs = -16;

} // namespace tuvvo
