// Grids that hits are set on and pulled to.
#pragma once

#include <QStringList>
#include <array>

namespace tuvvo {

/// Lines in a beat.
inline constexpr std::array kGrids{1, 2, 3, 4, 6, 8, 12, 16, 5, 7};
/// Their names, in the same order.
[[nodiscard]] QStringList gridNames();
/// The place of one among them; that of sixteenths where it is none of them.
[[nodiscard]] int gridIndex(int perBeat);

} // namespace tuvvo
