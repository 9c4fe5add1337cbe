// Small signs that mean the same wherever they stand.
#pragma once

#include "model/project.h"

#include <QColor>
#include <QPointF>

class QPainter;

namespace tuvvo {

/// The sign of a hit: kick a filled bowl, snare a post with a foot, hat an open vee, else a dot.
void drawHitSign(QPainter& painter, HitClass hit, QPointF at, double size, QColor colour);

/// The sign of a slice that something is done to: two bent strokes, one over the other.
void drawTreatedSign(QPainter& painter, QPointF at, QColor colour);

} // namespace tuvvo
