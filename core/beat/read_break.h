// What a break plays, worked out from its hits, and patterns that play it. Pure.
#pragma once

#include "base/result.h"
#include "model/project.h"

namespace tuvvo {

/// One hit of one class, where it was played. Two drums struck at once are two.
struct ReadHit {
  Seconds at; ///< in the source: names the hit for corrections
  HitClass hit = HitClass::Other;
  int group = 0;         ///< hits of one drum share one (Onset::group)
  double beat = 0;       ///< of the source, from its first downbeat, as it was played
  double velocity = 0.8; ///< against the hardest of its class; 0.05 to 1
  bool sure = true;      ///< its class was heard clearly, or was said
  bool alone = true;     ///< nothing else was struck with it
  bool operator==(const ReadHit&) const = default;
};

struct BreakReading {
  std::vector<ReadHit> hits; ///< in rising order
  double beats = 4;          ///< whole bars of the source that hold them
  Bpm tempo;                 ///< of the source
};

/// Reads a source's hits by class. What stands before the first downbeat is left out.
/// @returns an Error for a source without a tempo, or with fewer than four hits
[[nodiscard]] Result<BreakReading> readBreak(const Source& source);

/// Below this a hit's class is shown as unsure (Onset::sure). On listen-bench's breaks, each heard
/// by an ear that never met its origin, half of what lies below is wrong and one in nine of the
/// rest.
inline constexpr double kSureHit = 0.4;

/// Calls a hit by another class than one of its own; what else was struck with it stays. The same
/// class again says that it is right. With `alikeToo`, the same for every hit of its group.
[[nodiscard]] Project withHitMoved(Project project, Id source, Seconds at, HitClass from,
                                   HitClass to, bool alikeToo);
/// How many others of its group are called by a class.
[[nodiscard]] int alikeOf(const Source& source, Seconds at, HitClass called);

/// The keys that play a reading, by class; 0 leaves a class out.
using BreakKeys = std::array<Id, 4>;
/// The deck's first Floor, Body and Air keys for kick, snare and hat, and the third Body key for
/// the rest, where they are there.
[[nodiscard]] BreakKeys usualKeys(const Project& project);

/// A pattern "NAME, played" that plays a reading with keys as it was played: on lines of the grid,
/// what was early or late as micro-timing, at the beat's tempo (half and double folded in). Written
/// anew where it is there already.
/// @param into     a pattern that the hits are laid into instead, over and over to its end, in
/// place
///                 of what these keys have there; 0: the one of its own
/// @param pattern  the pattern that has them; 0 for a source or reading that gives no hit
[[nodiscard]] Project withBreakPlayed(Project project, Id source, const BreakReading& reading,
                                      const BreakKeys& keys, Id into, Id* pattern);

/// The hit of each class (and of the four commonest groups of what has none) that stands out best:
/// struck alone, loud, and with room to ring before the next.
struct Exemplar {
  HitClass hit = HitClass::Other;
  int group = -1;      ///< of what has no class; −1 for kick, snare and hat
  Frames start, end;   ///< of the source
  double velocity = 1; ///< what it was struck with there, as the reading has it
};
[[nodiscard]] std::vector<Exemplar> exemplarsOf(const Source& source, const BreakReading& reading);

/// Lays the exemplars on keys of their own ("kick, NAME" …, free places of the deck; the same keys
/// when it is done again), trimmed out of the whole source, and writes "NAME, rebuilt" with them.
/// The source's shape acts on the keys; its hits stand at the beat's tempo.
/// @param into, pattern  as in withBreakPlayed()
[[nodiscard]] Project withBreakRebuilt(Project project, Id source, const BreakReading& reading,
                                       Id into, Id* pattern);

/// Drums lock to a source's own rhythm: its feel (grooveOf) is laid on every lane of a pattern
/// whose part is neither tones nor slices, at full strength.
/// @returns an Error where the source gives no feel, or the pattern has no such lane
[[nodiscard]] Result<Project> withDrumsFollowing(Project project, Id pattern, const Source& source);

} // namespace tuvvo
