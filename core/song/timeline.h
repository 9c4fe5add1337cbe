// Sections in order, laid out in bars and beats.
#pragma once

#include "model/project.h"

namespace tuvvo {

struct PlacedSection {
  Id section = 0, pattern = 0;
  Meter meter; ///< of its pattern
  int startBar = 0, bars = 0;
  Beats start, length;
};

struct Timeline {
  std::vector<PlacedSection> sections;
  int bars = 0;
  Beats length;
};

[[nodiscard]] Timeline timelineOf(const Project& project);
/// The section that sounds at a place; null before the start and past the end.
[[nodiscard]] const PlacedSection* sectionAt(const Timeline& timeline, Beats at);
/// Where a bar begins, from 0; the end for one past it.
[[nodiscard]] Beats barAt(const Timeline& timeline, int bar);

/// A place as people say it.
struct BarPlace {
  int bar = 0;  ///< from 0
  int beat = 0; ///< of the meter's unit, from 0
};
[[nodiscard]] BarPlace barPlaceOf(const Timeline& timeline, Beats at);
/// The same of a pattern that goes round, or of the count-in before it (bar −1).
[[nodiscard]] BarPlace barPlaceOf(Meter meter, Beats at);

} // namespace tuvvo
