#include "widgets/press.h"

#include <QFontMetricsF>
#include <QKeyEvent>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
double signRoom(Sign sign, const QString& text) {
  if (sign == Sign::None) return 0;
  return px(16) + (text.isEmpty() ? 0 : px(6));
}
} // namespace

Press::Press(const QString& text, const QString& tip, QWidget* parent) : QAbstractButton(parent) {
  setSaid(text, tip);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  setAttribute(Qt::WA_Hover);
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

void Press::setSaid(const QString& text, const QString& tip) {
  if (text == this->text() && tip == toolTip()) return;
  setText(text);
  setToolTip(tip);
  setAccessibleName(text);
  setAccessibleDescription(tip);
  updateGeometry();
}

QSize Press::sizeHint() const {
  const QFontMetricsF metrics(theme::font(type()));
  const double words = metrics.horizontalAdvance(text()) + signRoom(m_sign, text());
  return {int(std::ceil(words)) + padding(), px(28)};
}

void Press::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
  case Qt::Key_Left:
  case Qt::Key_Right:
  case Qt::Key_Up:
  case Qt::Key_Down:
    event->ignore();
    break;
  default:
    QAbstractButton::keyPressEvent(event);
  }
}

void Press::drawFace(QPainter& painter, const QRectF& box, QColor ink) const {
  const QFontMetricsF metrics(theme::font(type()));
  const double sign = signRoom(m_sign, text()),
               words = std::min(metrics.horizontalAdvance(text()) + 1, box.width() - sign);
  double left = box.center().x() - (sign + words) / 2;
  if (m_sign != Sign::None) {
    drawSign(painter, m_sign, QRectF(left, box.center().y() - px(8), px(16), px(16)), ink);
    left += sign;
  }
  theme::drawText(painter, QRectF(left, box.top(), words, box.height()),
                  Qt::AlignLeft | Qt::AlignVCenter, text(), type(), ink);
}

void Press::drawFocus(QPainter& painter, const QRectF& box, double radius) const {
  if (!hasFocus()) return;
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(theme::colours().text, 2));
  painter.drawRoundedRect(box, radius, radius);
}

} // namespace tuvvo
