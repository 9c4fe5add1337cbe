// Who plays when: how busy each role of a pattern is, beat by beat. Pure.
#pragma once

#include "model/project.h"

#include <array>

namespace tuvvo {

/// Share of every beat of a pattern's time in which a part of a role sounds: 0 to 1, by role (a row
/// of the deck) and beat. A hit counts for a quarter of a beat, a held one for its length; a ribbon
/// that is shorter than the pattern counts as often as it comes round. Parts of one role add up.
using RolesOverTime = std::array<std::vector<double>, 4>;
[[nodiscard]] RolesOverTime rolesOverTime(const Project& project, const Pattern& pattern);

} // namespace tuvvo
