// Everything of a bus and of a duck that can be turned.
#pragma once

#include "model/bus.h"
#include "model/parameter.h"

namespace tuvvo {

using BusParameter = FigureOf<BusSettings>;
using DuckParameter = FigureOf<Duck>;

/// Ids are those inside a bus: "level" of a part is "part.level", of a row "row.level".
[[nodiscard]] std::span<const BusParameter> busParameters();
/// The same: "duck-depth" of a part is "part.duck-depth".
[[nodiscard]] std::span<const DuckParameter> duckParameters();

/// Brings every figure into its range.
void clamp(Duck& duck);

} // namespace tuvvo
