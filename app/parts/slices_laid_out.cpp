#include "parts/slices_laid_out.h"

#include "beat/start_levels.h"

#include <QCoreApplication>

namespace tuvvo {

Id laySlicesOut(Panel& panel, Id source, const SlicesInOrder& how) {
  Id pattern = 0;
  Project next = withSlicesInOrder(panel.project(), source, how, &pattern);
  if (pattern == 0) return 0;
  LoudnessCache loudness;
  next = withStartLevels(std::move(next), freshParts(panel.project()), pattern, Among::ByRole,
                         loudness);
  panel.edit(QCoreApplication::translate("slices", "Lay the slices out in order"), next);
  panel.selectPattern(pattern);
  return pattern;
}

} // namespace tuvvo
