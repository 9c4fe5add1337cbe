#include "widgets/signs.h"

#include "theme/theme.h"

#include <QPainter>
#include <QPainterPath>

namespace tuvvo {

void drawHitSign(QPainter& p, HitClass hit, QPointF at, double s, QColor colour) {
  p.setPen(QPen(colour, 1.7, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  switch (hit) {
  case HitClass::Kick: {
    p.setBrush(colour);
    p.setPen(Qt::NoPen);
    QPainterPath bowl;
    bowl.moveTo(at + QPointF(-s, -s * 0.5));
    bowl.arcTo(QRectF(at.x() - s, at.y() - s * 1.4, 2 * s, 2 * s * 0.95), 180, 180);
    p.drawPath(bowl);
    break;
  }
  case HitClass::Snare:
    p.drawLine(at + QPointF(0, -s), at + QPointF(0, s * 0.8));
    p.drawLine(at + QPointF(-s * 0.55, s * 0.8), at + QPointF(s * 0.55, s * 0.8));
    break;
  case HitClass::Hat:
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(QPolygonF({at + QPointF(-s * 0.75, -s * 0.8), at + QPointF(0, s * 0.7),
                              at + QPointF(s * 0.75, -s * 0.8)}));
    break;
  case HitClass::Other:
    p.setPen(Qt::NoPen);
    p.setBrush(colour);
    p.drawEllipse(at, s * 0.38, s * 0.38);
    break;
  }
}

void drawOpensSign(QPainter& p, QPointF at, QColor colour) {
  const double s = theme::px(4);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(colour, 1.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  p.drawPolyline(
      QPolygonF({at + QPointF(-s, -s / 2), at + QPointF(0, s / 2), at + QPointF(s, -s / 2)}));
}

void drawTreatedSign(QPainter& p, QPointF at, QColor colour) {
  const double s = theme::px(3);
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(colour, 1.4, Qt::SolidLine, Qt::RoundCap));
  for (const double y : {-s * 0.6, s * 0.6}) {
    QPainterPath wave(at + QPointF(-s, y));
    wave.cubicTo(at + QPointF(-s * 0.3, y - s), at + QPointF(s * 0.3, y + s), at + QPointF(s, y));
    p.drawPath(wave);
  }
}

void drawFitSign(QPainter& p, QPointF at, double cost) {
  constexpr double fitsWell = 2, fits = 6;
  const auto& c = theme::colours();
  const double r = theme::px(4);
  p.setPen(Qt::NoPen);
  p.setBrush(Qt::NoBrush);
  if (cost < fitsWell) {
    p.setBrush(c.mint);
    p.drawEllipse(at, r, r);
  } else if (cost < fits) {
    p.setPen(QPen(c.mint, 1.5));
    p.drawEllipse(at, r, r);
  } else {
    p.setPen(QPen(c.quiet, 2));
    p.drawLine(QPointF(at.x() - r, at.y()), QPointF(at.x() + r, at.y()));
  }
}

QRectF drawRowGround(QPainter& painter, const QRectF& row, bool chosen) {
  const auto& c = theme::colours();
  const QRectF box = row.adjusted(2, 2, -4, -2);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(Qt::NoPen);
  painter.setBrush(chosen ? c.raised : c.panel);
  painter.drawRoundedRect(box, 6, 6);
  if (chosen) painter.fillRect(QRectF(box.left(), box.top() + 4, 3, box.height() - 8), c.brass);
  return box;
}

void drawSoundingSign(QPainter& p, QPointF at) {
  const double r = theme::px(6);
  p.setPen(Qt::NoPen);
  p.setBrush(theme::colours().brass);
  p.drawPolygon(QPolygonF{
      {at.x() - r * 0.7, at.y() - r}, {at.x() + r, at.y()}, {at.x() - r * 0.7, at.y() + r}});
}

} // namespace tuvvo
