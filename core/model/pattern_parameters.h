// Everything of a hit and of a lane's feel that can be turned.
#pragma once

#include "model/parameter.h"
#include "model/pattern.h"

namespace tuvvo {

using HitParameter = FigureOf<Hit>;
using FeelParameter = FigureOf<Feel>;

/// All of a hit, in the order in which they are shown.
[[nodiscard]] std::span<const HitParameter> hitParameters();
/// All of a feel, in the order in which they are shown.
[[nodiscard]] std::span<const FeelParameter> feelParameters();
/// Null for one that is not known.
[[nodiscard]] const HitParameter* findHitParameter(std::string_view id);
[[nodiscard]] const FeelParameter* findFeelParameter(std::string_view id);

} // namespace tuvvo
