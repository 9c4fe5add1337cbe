#include "widgets/label.h"

#include <QFontMetricsF>
#include <QHelpEvent>
#include <QToolTip>
#include <cmath>

namespace tuvvo {

using theme::px;

Label::Label(theme::Type type, theme::Ink ink, QWidget* parent)
    : QWidget(parent), m_type(type), m_ink(ink) {
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Fixed);
}

void Label::setText(const QString& text) {
  if (text == m_text) return;
  m_text = text;
  setAccessibleName(text);
  updateGeometry();
  update();
}

void Label::setWraps(bool wraps) {
  m_wraps = wraps;
  QSizePolicy policy(QSizePolicy::Preferred, QSizePolicy::Minimum);
  policy.setHeightForWidth(wraps);
  setSizePolicy(policy);
}

double Label::wanted() const {
  return std::ceil(QFontMetricsF(theme::font(m_type)).horizontalAdvance(m_text)) + 2;
}

QSize Label::sizeHint() const {
  const QFontMetricsF metrics(theme::font(m_type));
  if (m_wraps) return {std::min(int(wanted()), px(240)), heightForWidth(px(240))};
  return {int(wanted()), int(std::ceil(metrics.height()))};
}

QSize Label::minimumSizeHint() const {
  const QSize whole = sizeHint();
  if (m_wraps) return {px(40), whole.height()};
  return {m_least < 0 ? whole.width() : std::min(whole.width(), px(m_least)), whole.height()};
}

int Label::heightForWidth(int width) const {
  const QFontMetricsF metrics(theme::font(m_type));
  const QRectF box =
      metrics.boundingRect(QRectF(0, 0, width, 10'000), Qt::TextWordWrap | Qt::AlignLeft, m_text);
  return int(std::ceil(std::max(box.height(), metrics.height())));
}

void Label::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const QColor ink = isEnabled() ? theme::ink(m_ink)
                                 : theme::mixed(theme::ink(m_ink), theme::colours().panel, 0.55);
  if (!m_wraps) {
    theme::drawText(painter, rect(), Qt::AlignLeft | Qt::AlignVCenter, m_text, m_type, ink);
    return;
  }
  painter.setFont(theme::font(m_type));
  painter.setPen(ink);
  painter.drawText(rect(), Qt::TextWordWrap | Qt::AlignLeft | Qt::AlignTop, m_text);
}

bool Label::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip && toolTip().isEmpty() && !m_wraps && wanted() > width()) {
    QToolTip::showText(static_cast<QHelpEvent*>(event)->globalPos(), m_text, this);
    return true;
  }
  return QWidget::event(event);
}

} // namespace tuvvo
