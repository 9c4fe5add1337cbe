// From hits to the events of a score. Inner part of play/.
#pragma once

#include "beat/hits.h"
#include "play/score.h"

#include <unordered_map>

namespace tuvvo {

/// How long a pattern's loop is: until all its lanes meet; where they do so too late or would give
/// too much to play, as many rounds of the pattern as there is room for.
[[nodiscard]] Beats loopLength(const Pattern& pattern);

/// Writes patterns into a score whose patches and length are there. Not for the audio thread.
class EventWriter {
public:
  EventWriter(Score& score, const Project& project);

  /// One pattern from a place on, its lanes each coming round by itself; what would start at or
  /// after the end stays out.
  void add(const Pattern& pattern, Beats from, Beats until, const std::vector<Id>& resting);
  /// In a loop: what is shifted out over either end belongs to the other one.
  void goRound();
  /// Puts events in order and counts each key's hits, so that layers take turns the same way every
  /// time.
  void finish();

private:
  struct Written {
    const Hit* hit;
    int patch;
    double heard, velocity; ///< from the lane's start
  };
  struct Round {
    Beats start, until;
    std::int32_t number, rounds;
  };
  void addHit(const Written& written, const Hearing& hearing, const Round& round, Id pattern);
  void strike(ScoreEvent event, double place, double velocity, double tune, Beats hold,
              const Hearing& hearing);
  [[nodiscard]] int patchOf(const Hit& hit) const;

  Score& m_score;
  const Project& m_project;
  std::unordered_map<std::uint64_t, int> m_patches; ///< by key and whether it is reversed
};

} // namespace tuvvo
