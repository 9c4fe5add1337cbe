#include "notes/similarity_note.h"

#include "beat/pattern_edits.h"
#include "beat/similarity.h"
#include "beat/vary.h"
#include "model/edits.h"

#include <algorithm>
#include <set>

namespace tuvvo {

namespace {
constexpr int kLongWithoutChange = 8; ///< bars; common practice, no source
} // namespace

void addSimilarityNotes(const Project& project, std::vector<Note>& notes) {
  std::set<Id> said;
  for (const auto& section : project.sections) {
    const PatternPtr pattern = findPattern(project, section.pattern);
    if (!pattern || section.bars < kLongWithoutChange || !said.insert(pattern->id).second) continue;
    const auto bars = barsAlike(project, *pattern);
    const bool hits = std::any_of(pattern->lanes.begin(), pattern->lanes.end(),
                                  [](const Lane& lane) { return !lane.hits.empty(); });
    // What is not struck every time round differs by itself.
    const bool changes =
        std::any_of(pattern->lanes.begin(), pattern->lanes.end(), [&](const Lane& lane) {
          const Beats round = lengthOf(*pattern, lane), all = lengthOf(*pattern);
          return (round.value > 0 && all.value % round.value != 0) ||
                 std::any_of(lane.hits.begin(), lane.hits.end(), [](const Hit& hit) {
                   return hit.condition.chance < 1 || hit.condition.every > 1;
                 });
        });
    const bool same =
        !changes && std::all_of(bars.begin(), bars.end(), [](const BarSimilarity& bar) {
          return bar.letter == 0 && bar.exact;
        });
    if (!hits || !same) continue;
    Note note;
    note.id = "same:" + std::to_string(pattern->id);
    note.stage = Stage::Beat;
    note.finding = finding::BarsTheSame{section.name, pattern->name, section.bars};
    note.fix = [id = pattern->id](const Project& p) {
      const PatternPtr now = findPattern(p, id);
      if (!now) return p;
      Pattern longer = *now;
      while (longer.bars < 4) {
        const int twice = longer.bars * 2;
        longer = withBars(std::move(longer), twice);
      }
      const Pattern filled = withLastBarChanged(p, longer, LastBar::Fill, 1);
      return withPatternChanged(p, id, [&](Pattern& changed) { changed = filled; });
    };
    notes.push_back(std::move(note));
  }
}

} // namespace tuvvo
