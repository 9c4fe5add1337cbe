#include "widgets/button.h"

#include "theme/plate.h"
#include "widgets/signs.h"

namespace tuvvo {

using theme::px;

Button::Button(const QString& text, const QString& tip, QWidget* parent)
    : Press(text, tip, parent) {}

Button::Button(Sign sign, const QString& text, const QString& tip, QWidget* parent)
    : Press(text, tip, parent) {
  setSign(sign);
}

QString Button::look() const {
  if (m_opens) return QStringLiteral("opens");
  switch (m_weight) {
  case Weight::Next:
    return QStringLiteral("next");
  case Weight::Danger:
    return QStringLiteral("danger");
  case Weight::Plain:
    break;
  }
  return QStringLiteral("plain");
}

int Button::padding() const { return px(m_opens ? 36 : 24); }

void Button::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QRectF box = QRectF(rect()).adjusted(1, 1, -1, -1);
  const double radius = px(6);
  const bool next = m_weight == Weight::Next && isEnabled(), on = isChecked() || isDown();
  QColor fill = next ? c.brass : on ? theme::mixed(c.brass, c.raised, 0.35) : c.raised;
  if (under() && !isDown()) fill = theme::mixed(c.text, fill, next ? 0.18 : 0.08);
  if (!isEnabled()) fill = theme::mixed(c.raised, c.panel, 0.4);
  const QColor rim = !isEnabled()                 ? theme::mixed(c.line, c.panel, 0.5)
                     : m_weight == Weight::Danger ? c.coral
                     : next || on                 ? c.brass
                                                  : c.line;
  theme::drawPlate(painter, box, radius, fill, rim);
  const QColor ink = !isEnabled() ? theme::mixed(c.quiet, c.panel, 0.55) : next ? c.ground : c.text;
  drawFace(painter, box.adjusted(px(6), 0, -px(m_opens ? 20 : 6), 0), ink);
  if (m_opens) drawOpensSign(painter, QPointF(box.right() - px(13), box.center().y()), ink);
  drawFocus(painter, box, radius);
}

} // namespace tuvvo
