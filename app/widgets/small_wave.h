// The small waveform on caps, cards and panels.
#pragma once

#include "audio/peaks.h"
#include "model/project.h"

#include <QColor>
#include <QRectF>
#include <span>

class QPainter;

namespace tuvvo {

/// Draws a stretch of a sound over the box, as loud as the box is high; nothing while there are no
/// peaks. @param apart  pixels from one line to the next
void drawSmallWave(QPainter& p, const QRectF& box, const Sound& sound, const PeaksPtr& peaks,
                   const Stretch& stretch, const QColor& colour, double apart = 1);

/// The same from columns of 0 to 255, where the sound is not in memory.
void drawSmallWave(QPainter& p, const QRectF& box, std::span<const std::uint8_t> columns,
                   const QColor& colour);

} // namespace tuvvo
