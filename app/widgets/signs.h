// Small signs that mean the same wherever they stand.
#pragma once

#include "model/project.h"

#include <QColor>
#include <QPointF>
#include <QRectF>

class QPainter;

namespace tuvvo {

/// The sign of a hit: kick a filled bowl, snare a post with a foot, hat an open vee, else a dot.
void drawHitSign(QPainter& painter, HitClass hit, QPointF at, double size, QColor colour);

/// The arrow at the end of what opens something.
void drawOpensSign(QPainter& painter, QPointF at, QColor colour);

/// The sign of a slice that something is done to: two bent strokes, one over the other.
void drawTreatedSign(QPainter& painter, QPointF at, QColor colour);

/// How well something fits the beat, by the cost of bringing it there (see cut/fit.h): a full dot
/// fits well, a ring with some change, a short line is far off.
void drawFitSign(QPainter& painter, QPointF at, double cost);

/// The ground of a row in a list, which the chosen one stands out by. @returns its box
QRectF drawRowGround(QPainter& painter, const QRectF& row, bool chosen);

/// The sign of what sounds now: a triangle.
void drawSoundingSign(QPainter& painter, QPointF at);

} // namespace tuvvo
