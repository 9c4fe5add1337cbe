// Feels as they were played: taken from a source, or from the set that ships. Pure.
#pragma once

#include "base/result.h"
#include "model/project.h"

namespace tuvvo {

/// The timing and accents of a source's hits against its own even beats (against the beats as they
/// were played where it is not steady), averaged over its rounds: one, two or four bars, as many
/// as it has; on sixteenths, or on thirds of a beat where those agree better. How hard a hit is, is
/// told against the mean of its own class, so that a soft hat is no soft kick.
/// @returns an Error for a source without a tempo or with fewer than four hits
[[nodiscard]] Result<Groove> grooveOf(const Source& source);

/// The set that ships, without ids.
[[nodiscard]] const std::vector<Groove>& shippedGrooves();

} // namespace tuvvo
