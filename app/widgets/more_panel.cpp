#include "widgets/more_panel.h"

#include "theme/theme.h"
#include "widgets/flow_row.h"

#include <QApplication>
#include <QKeyEvent>
#include <QMouseEvent>

namespace tuvvo {

using theme::px;

MorePanel::MorePanel(QWidget* button)
    : QWidget(button->parentWidget()), m_button(button), m_row(new FlowRow(px(8), this)) {
  m_row->setContentsMargins(px(12), px(12), px(12), px(12));
  setAccessibleName(tr("More"));
  hide();
}

MorePanel::~MorePanel() { qApp->removeEventFilter(this); }

void MorePanel::add(QWidget* widget) {
  m_row->addWidget(widget);
  if (isVisible()) place();
}

void MorePanel::toggle() { isVisible() ? close() : open(); }

void MorePanel::open() {
  // It lies over everything of the window, whatever its button lies in.
  if (parentWidget() != m_button->window()) setParent(m_button->window());
  place();
  show();
  raise();
  qApp->installEventFilter(this);
  if (!m_button->hasFocus()) return;
  // Whoever came by the keyboard goes on in it.
  for (auto* child : findChildren<QWidget*>())
    if (child->isVisible() && child->isEnabled() && (child->focusPolicy() & Qt::TabFocus))
      return child->setFocus(Qt::TabFocusReason);
}

void MorePanel::close() {
  qApp->removeEventFilter(this);
  if (m_button && isAncestorOf(QApplication::focusWidget())) m_button->setFocus();
  hide();
  if (m_button) setParent(m_button->parentWidget()); // with the row it belongs to
}

void MorePanel::place() {
  const QWidget* window = m_button->window();
  const int width =
      std::min(std::min(px(380), m_row->sizeHint().width()), window->width() - px(16));
  const int height = m_row->heightForWidth(width);
  const QPoint corner = m_button->mapTo(window, QPoint(m_button->width(), m_button->height()));
  const int left =
      std::clamp(corner.x() - width, px(8), std::max(px(8), window->width() - width - px(8)));
  int top = corner.y() + px(4);
  if (top + height > window->height() - px(8))
    top = std::max(px(8), corner.y() - m_button->height() - px(4) - height);
  setGeometry(left, top, width, height);
}

void MorePanel::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(c.line, 1));
  painter.setBrush(c.panel);
  painter.drawRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5));
}

bool MorePanel::eventFilter(QObject* watched, QEvent* event) {
  if (!m_button || !m_button->isVisible()) {
    close();
    return false;
  }
  const bool ours = !QApplication::activePopupWidget() && !QApplication::activeModalWidget();
  if (event->type() == QEvent::MouseButtonPress && ours && watched->isWidgetType()) {
    auto* pressed = static_cast<QWidget*>(watched);
    const bool within = pressed == this || isAncestorOf(pressed) || pressed == m_button;
    if (!within && pressed->window() == window()) close();
  }
  const bool key = event->type() == QEvent::ShortcutOverride || event->type() == QEvent::KeyPress;
  if (key && ours && static_cast<QKeyEvent*>(event)->key() == Qt::Key_Escape) {
    event->accept();
    if (event->type() == QEvent::KeyPress) close();
    return true;
  }
  return false;
}

} // namespace tuvvo
