// From hits to the events of a score. Inner part of play/.
#pragma once

#include "beat/hits.h"
#include "beat/resolved_timing.h"
#include "play/patch_writer.h"

namespace tuvvo {

/// How long a pattern's loop is: until all its lanes meet; where they do so too late or would give
/// too much to play, as many rounds of the pattern as there is room for.
[[nodiscard]] Beats loopLength(const Pattern& pattern);

/// Writes patterns into a score whose patches, tempo and length are there. Not for the audio
/// thread.
class EventWriter {
public:
  EventWriter(Score& score, PatchWriter& patches, const Project& project);

  /// One pattern from a place on, its lanes each coming round by itself; what would start at or
  /// after the end stays out.
  void add(const Pattern& pattern, Beats from, Beats until, const std::vector<Id>& mutedParts);
  /// Leaves out what stands before a place.
  void beginAt(Beats from) { m_from = from; }
  /// In a loop: what is shifted out over either end belongs to the other one.
  void goRound();
  /// Puts events in order and counts each key's hits, so that layers take turns the same way every
  /// time.
  void finish();

private:
  struct Written {
    const Hit* hit;
    HitSound sound;
    int patch;                   ///< at the beat's own tempo
    bool always, treated;        ///< not always: one of two, treated and not, that take turns
    ResolvedTiming::Heard heard; ///< from the lane's start
    double velocity;
  };
  struct Round {
    Beats start, until;
    std::int32_t number, rounds;
  };
  void addHit(const Written& written, const ResolvedTiming& timed, const Round& round, Id pattern);
  void strike(ScoreEvent event, const ResolvedTiming::Heard& at, double velocity, double pitch,
              Beats hold);
  void countTurns();
  [[nodiscard]] Bpm bakedTempoAt(double ticks) const;

  Score& m_score;
  PatchWriter& m_patches;
  const Project& m_project;
  Beats m_from; ///< nothing stands before it
};

} // namespace tuvvo
