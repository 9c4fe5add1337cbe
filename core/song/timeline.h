// Sections in order, laid out in bars and beats.
#pragma once

#include "model/project.h"

namespace tuvvo {

struct PlacedSection {
  Id section = 0, pattern = 0;
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

} // namespace tuvvo
