// Where and how hard the hits of a lane are really heard. Pure; safe anywhere.
#pragma once

#include "base/tempo_map.h"
#include "model/project.h"

namespace tuvvo {

/// A place moved by swing: the second half of each pair starts at s % of the pair (50 straight,
/// 66.7 triplet) and everything between is spread evenly.
/// @param ticks  a place; may be negative
/// @param pair   ticks of a pair: a beat swings eighths, half a beat sixteenths
/// @returns ticks, not rounded
[[nodiscard]] double swung(double ticks, double swingPercent, Beats pair);

/// How much harder or softer a place of a bar is struck, by an accent's shape: 1 − depth to 1.
[[nodiscard]] double accentAt(Beats at, Meter meter, AccentShape shape, double depth);

/// How late a groove plays a place, in ticks, and how hard, as a share of the mean. Between its
/// steps lateness is spread evenly; a place further than an eighth of a beat from any step keeps
/// its level.
[[nodiscard]] double lateness(const Groove& groove, Beats at);
[[nodiscard]] double levelAt(const Groove& groove, Beats at);

/// One lane's feel at the beat's own tempo. Everything that shows, plays, prints or writes hits
/// asks this, so that they agree.
class ResolvedTiming {
public:
  ResolvedTiming(const Project& project, Meter meter, const Lane& lane);
  /// The lane of a part; a plain one where it has none.
  ResolvedTiming(const Project& project, const Pattern& pattern, Id part);

  /// Where the feel alone puts a place: swing, groove, micro-timing and lag. Ticks, not rounded.
  [[nodiscard]] double placeOf(Beats at) const;
  /// Where a hit sounds: its place, and its own micro-timing as far as it is not quantised, and
  /// what humanises it. Ticks from the lane's start, not rounded; may be negative.
  [[nodiscard]] double heardAt(const Hit& hit) const;
  /// The same in two: what follows the beat, and what is time and stays as long at any tempo.
  struct Heard {
    double ticks = 0;
    Milliseconds late{0};
  };
  [[nodiscard]] Heard heardApart(const Hit& hit) const;
  /// How hard it sounds; 0.02 to 1.
  [[nodiscard]] double velocityOf(const Hit& hit) const;

  /// The line of a grid whose place is nearest to where something was heard; the nearest tick where
  /// there is no grid. Not below 0.
  /// @param perBeat  lines in a beat; 0 for none
  [[nodiscard]] Beats nearestLine(double heard, int perBeat) const;
  /// The micro-timing with which a hit on a line sounds at a place, within the
  /// range of micro-timing, while nothing is quantised.
  [[nodiscard]] Milliseconds microTimingOf(Id key, Beats line, double heard) const;
  /// The velocity a hit has to have on a line to be heard as hard; 0.02 to 1.
  [[nodiscard]] double velocityFor(Id key, Beats line, double heard) const;

  [[nodiscard]] double ticksOf(Milliseconds ms) const { return ms.value * m_ticksPerMs; }
  [[nodiscard]] Milliseconds msOf(double ticks) const { return Milliseconds(ticks / m_ticksPerMs); }

private:
  [[nodiscard]] double onBeat(Beats at) const;
  [[nodiscard]] Milliseconds humanising(Id key, Beats at) const;
  [[nodiscard]] double hardness(Id key, Beats at) const;

  Feel m_feel;
  Meter m_meter;
  Groove m_groove;
  double m_ticksPerMs;
};

} // namespace tuvvo
