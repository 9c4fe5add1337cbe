#include "shell/notes_strip.h"

#include <QFontMetrics>

namespace tuvvo {

using theme::px;

StripTab::StripTab(const QString& text, const QString& tip, QWidget* parent)
    : Press(text, tip, parent) {
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

void StripTab::setNumber(int number, bool presses) {
  if (number == m_number && presses == m_presses) return;
  const bool other = (number < 0) != (m_number < 0);
  m_number = number;
  m_presses = presses;
  setAccessibleDescription(number < 0 ? toolTip() : tr("%1 notes").arg(number));
  if (other) updateGeometry();
  update();
}

QSize StripTab::sizeHint() const {
  const QFontMetrics metrics(theme::font(type()));
  return {px(36), metrics.horizontalAdvance(text()) + px(m_number < 0 ? 24 : 52)};
}

void StripTab::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  if (under()) p.fillRect(rect(), c.raised);
  double top = px(12);
  if (m_number >= 0) {
    const QRectF badge(width() / 2.0 - px(11), px(8), px(22), px(22));
    const bool any = m_number > 0;
    p.setPen(QPen(m_presses ? c.coral : any ? c.brass : c.line, m_presses ? 1.6 : 1));
    p.setBrush(any ? theme::mixed(c.brass, c.panel, 0.22) : c.panel);
    p.drawEllipse(badge);
    theme::drawText(p, badge, Qt::AlignCenter, QString::number(m_number), theme::Type::Small,
                    any ? c.text : c.quiet);
    top = px(40);
  }
  p.save();
  p.translate(width() / 2.0, top);
  p.rotate(90);
  theme::drawText(p, QRectF(0, -px(10), height() - top, px(20)), Qt::AlignLeft | Qt::AlignVCenter,
                  text(), type(), under() ? c.text : c.quiet);
  p.restore();
  drawFocus(p, QRectF(rect()).adjusted(2, 2, -2, -2), px(4));
}

} // namespace tuvvo
