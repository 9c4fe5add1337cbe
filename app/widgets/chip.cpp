#include "widgets/chip.h"

#include "theme/theme.h"

#include <QFontMetrics>

namespace tuvvo {

Chip::Chip(const QString& text, const QString& tip, QWidget* parent) : QAbstractButton(parent) {
  setText(text);
  setToolTip(tip);
  setAccessibleName(text);
  setAccessibleDescription(tip);
  setFocusPolicy(Qt::TabFocus); // a click must not take the keys away from the deck
  setCursor(Qt::PointingHandCursor);
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

QSize Chip::sizeHint() const {
  const QFontMetrics metrics(theme::font(theme::Type::Small));
  return {metrics.horizontalAdvance(text()) + theme::px(26), theme::px(25)};
}

void Chip::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF box = QRectF(rect()).adjusted(1, 1, -1, -1);
  QColor fill = isChecked()                   ? c.brass
                : underMouse() && isEnabled() ? theme::mixed(c.line, c.raised, 0.5)
                                              : c.raised;
  if (isChecked() && !isEnabled()) fill = theme::mixed(c.brass, c.raised, 0.25);
  QColor rim = !isEnabled() ? c.line : isChecked() ? c.brass : m_tone.isValid() ? m_tone : c.line;
  if (isDown()) fill = theme::mixed(c.brass, c.raised, 0.5);
  painter.setPen(QPen(hasFocus() ? c.text : rim, hasFocus() ? 2 : 1));
  painter.setBrush(fill);
  painter.drawRoundedRect(box, box.height() / 2, box.height() / 2);
  const QColor ink = !isEnabled()  ? theme::mixed(c.quiet, c.raised, 0.6)
                     : isChecked() ? c.ground
                                   : c.text;
  theme::drawText(painter, box.adjusted(6, 0, -6, 0), Qt::AlignCenter, text(), theme::Type::Small,
                  ink);
}

} // namespace tuvvo
