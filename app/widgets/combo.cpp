#include "widgets/combo.h"

#include "theme/theme.h"

namespace tuvvo {

Combo::Combo(const QString& name, const QString& tip, QWidget* parent) : QComboBox(parent) {
  setAccessibleName(name);
  setToolTip(tip.isEmpty() ? name : tip);
  setFocusPolicy(Qt::TabFocus);
}

void Combo::paintEvent(QPaintEvent* event) {
  QComboBox::paintEvent(event);
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  if (!isEnabled()) { // what cannot be chosen steps back
    QColor veil = theme::colours().ground;
    veil.setAlphaF(0.55f);
    p.fillRect(rect(), veil);
  }
  p.setPen(QPen(theme::colours().quiet, 1.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  const QPointF at(width() - theme::px(13), height() / 2.0);
  const double s = theme::px(4);
  p.drawPolyline(
      QPolygonF({at + QPointF(-s, -s / 2), at + QPointF(0, s / 2), at + QPointF(s, -s / 2)}));
}

QString counted(qint64 count, const QString& one, const QString& many) {
  return QStringLiteral("%1 %2").arg(count).arg(count == 1 ? one : many);
}

} // namespace tuvvo
