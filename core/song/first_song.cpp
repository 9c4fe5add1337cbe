#include "song/first_song.h"

#include "beat/pattern_edits.h"
#include "beat/vary.h"
#include "model/edits.h"

#include <algorithm>

namespace tuvvo {

namespace {

constexpr double kThin = 0.5; ///< of its hits that a thin section keeps
constexpr std::uint64_t kSeed = 1;

/// Whole rounds of a pattern that are at least so many bars.
int roundsOf(const Pattern& pattern, int bars) {
  const int rounds = (bars + pattern.bars - 1) / pattern.bars;
  return std::max(1, rounds) * pattern.bars;
}

} // namespace

Project withFirstSong(Project project, Id pattern) {
  const PatternPtr whole = findPattern(project, pattern);
  if (!whole) return project;
  const auto alternative = [&](const std::string& name, const Pattern& changed) {
    Id added = 0;
    project = withAlternative(std::move(project), pattern, &added);
    project = withPatternChanged(std::move(project), added, [&](Pattern& p) {
      p.lanes = changed.lanes;
      p.name = whole->name + ", " + name;
    });
    return added;
  };
  const Id thin = alternative("thin", thinned(project, *whole, kThin, kSeed));
  const Id turned = alternative("turn", withLastBarChanged(project, *whole, LastBar::Drop, kSeed));
  while (!project.sections.empty()) {
    const Id first = project.sections.front().id;
    project = withoutSection(std::move(project), first);
  }
  struct Planned {
    const char* name;
    Id pattern;
    int bars;
  };
  const int round = whole->bars;
  for (const auto& [name, plays, bars] :
       {Planned{"In", thin, roundsOf(*whole, 4)},
        {"Main", pattern, roundsOf(*whole, 8)},
        {"Again", pattern, std::max(round, roundsOf(*whole, 8) - round)},
        {"Turn", turned, round},
        {"Out", thin, roundsOf(*whole, 4)}}) {
    Section section;
    section.name = name;
    section.pattern = plays;
    section.bars = bars;
    const std::size_t last = project.sections.size();
    project = withSection(std::move(project), section, last);
  }
  return project;
}

} // namespace tuvvo
