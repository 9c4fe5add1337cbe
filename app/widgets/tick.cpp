#include "widgets/tick.h"

#include "theme/plate.h"
namespace tuvvo {

using theme::px;

Tick::Tick(const QString& text, const QString& tip, QWidget* parent) : Press(text, tip, parent) {
  setCheckable(true);
}

void Tick::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF whole = QRectF(rect()).adjusted(1, 1, -1, -1);
  const QRectF box(whole.left() + px(2), whole.center().y() - px(7), px(14), px(14));
  const bool on = isChecked();
  const QColor ink = isEnabled() ? c.text : theme::mixed(c.quiet, c.panel, 0.55);
  QColor fill = on ? theme::mixed(c.brass, c.ground, isEnabled() ? 1.0 : 0.3) : c.ground;
  if (under()) fill = theme::mixed(c.text, fill, 0.12);
  theme::drawPlate(painter, box, px(3), fill, on && isEnabled() ? c.brass : c.quiet, 1.2);
  if (on) {
    painter.setBrush(Qt::NoBrush);
    painter.setPen(QPen(c.ground, 2, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    painter.drawPolyline(QPolygonF({box.topLeft() + QPointF(px(3), px(7.2)),
                                    box.topLeft() + QPointF(px(6), px(10.2)),
                                    box.topLeft() + QPointF(px(11), px(4))}));
  }
  theme::drawText(
      painter,
      QRectF(box.right() + px(6), whole.top(), whole.right() - box.right() - px(6), whole.height()),
      Qt::AlignLeft | Qt::AlignVCenter, text(), type(), ink);
  drawFocus(painter, whole, px(4));
}

} // namespace tuvvo
