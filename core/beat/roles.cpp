#include "beat/roles.h"

#include "base/convert.h"
#include "beat/hits.h"
#include "model/edits.h"

#include <cmath>

namespace tuvvo {

namespace {

/// Adds the shares of a stretch to every beat it touches.
void fill(std::vector<double>& beats, double start, double length) {
  for (auto b = toWhole<std::int64_t>(std::floor(start)); double(b) < start + length; ++b)
    if (b >= 0 && b < std::int64_t(beats.size()))
      beats[std::size_t(b)] += std::min(double(b + 1), start + length) - std::max(double(b), start);
}

} // namespace

RolesOverTime rolesOverTime(const Project& project, const Pattern& pattern) {
  const double beats = inBeats(lengthOf(pattern));
  RolesOverTime out;
  for (auto& row : out) row.assign(toWhole<std::size_t>(std::ceil(beats)), 0.0);
  for (const auto& lane : pattern.lanes) {
    const Part* part = findPart(project, lane.part);
    if (!part) continue;
    const double round = inBeats(lengthOf(pattern, lane));
    const ResolvedTiming timed(project, pattern.meter, lane);
    for (double from = 0; from < beats; from += round)
      for (const auto& hit : lane.hits) {
        if (inBeats(hit.at) >= round) break;
        fill(out[std::size_t(part->role)], from + timed.heardAt(hit) / double(kTicksPerBeat),
             std::max(0.25, inBeats(hit.length)));
      }
  }
  for (auto& row : out)
    for (double& share : row) share = std::min(1.0, share);
  return out;
}

} // namespace tuvvo
