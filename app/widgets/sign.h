// Our signs for what buttons do: drawings in data/icons/signs, in any ink.
#pragma once

#include <QColor>
#include <QRectF>

class QPainter;

namespace tuvvo {

enum class Sign {
  None,
  Add,
  Again,
  Break,
  Catch,
  Cut,
  Export,
  Find,
  Hear,
  Keep,
  Measure,
  Mute,
  Pin,
  Play,
  Print,
  Propose,
  Record,
  Remove,
  Reverse,
  Right,
  Solo,
  Star,
  Stop,
  Tap,
  Tune,
  Undo,
  Count
};

/// @param box  the sign is a square in its middle
void drawSign(QPainter& painter, Sign sign, const QRectF& box, QColor ink);
/// The name of a sign's drawing, without its ending; empty for None.
[[nodiscard]] const char* fileOf(Sign sign);

} // namespace tuvvo
