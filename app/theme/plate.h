// Boxes with round corners, which most controls are made of.
#pragma once

#include "theme/theme.h"

namespace tuvvo::theme {

/// Draws a filled box with round corners and a rim. Its picture is kept and copied wherever the
/// same box is wanted again: an antialiased path costs ten times as much. Interface thread.
/// @param box  the middle of the rim runs along it
/// @param rim  no rim where it is not valid
void drawPlate(QPainter& painter, const QRectF& box, double radius, QColor fill, QColor rim = {},
               double rimWidth = 1);

} // namespace tuvvo::theme
