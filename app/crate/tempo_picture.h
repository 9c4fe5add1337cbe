// Why a tempo: how strongly each was found, and which were weighed.
#pragma once

#include "model/project.h"

#include <QRectF>

class QPainter;

namespace tuvvo {

/// The curve from 40 to 240 BPM with the tempo in use and its alternatives marked; for a source
/// that drifts, its tempo from beat to beat instead.
void drawTempoPicture(QPainter& p, const QRectF& box, const Source& source);

} // namespace tuvvo
