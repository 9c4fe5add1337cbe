// The small waveform on caps, cards and panels.
#pragma once

#include "audio/peaks.h"
#include "model/project.h"

#include <QColor>
#include <QRectF>

class QPainter;

namespace tuvvo {

/// Draws a stretch of a sound over the box, as loud as the box is high; nothing while there are no
/// peaks. @param apart  pixels from one line to the next
void drawSmallWave(QPainter& p, const QRectF& box, const Sound& sound, const PeaksPtr& peaks,
                   const Stretch& stretch, const QColor& colour, double apart = 1);

} // namespace tuvvo
