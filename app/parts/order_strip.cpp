#include "parts/order_strip.h"

#include "model/treatment.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <algorithm>

namespace tuvvo {

using theme::px;

OrderStrip::OrderStrip(QWidget* parent) : QWidget(parent) {
  setAccessibleName(tr("Order of the pieces"));
  setToolTip(tr("Drag a piece to another place, or out of the row to leave it out. Keys: arrows "
                "choose, Ctrl+arrows move, Insert doubles, Delete leaves out."));
  setFocusPolicy(Qt::StrongFocus);
  setCursor(Qt::OpenHandCursor);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

QSize OrderStrip::sizeHint() const {
  return {int(std::clamp<std::size_t>(m_order.size() * std::size_t(px(19)), std::size_t(px(60)),
                                      std::size_t(px(460)))),
          px(25)};
}

void OrderStrip::setOrder(std::vector<int> order) {
  if (order == m_order) return;
  m_order = std::move(order);
  m_chosen = std::min(m_chosen, m_order.empty() ? 0 : m_order.size() - 1);
  m_dragged = -1;
  updateGeometry();
  update();
}

QRectF OrderStrip::cellOf(std::size_t place) const {
  const double each = double(width()) / double(std::max<std::size_t>(1, m_order.size()));
  return {double(place) * each, 0, each, double(height())};
}

QPoint OrderStrip::middleOf(std::size_t place) const { return cellOf(place).center().toPoint(); }

std::size_t OrderStrip::gapAt(double x) const {
  const double each = cellOf(0).width();
  return std::size_t(std::clamp(x / each + 0.5, 0.0, double(m_order.size())));
}

void OrderStrip::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const int most = m_order.empty() ? 1 : *std::max_element(m_order.begin(), m_order.end());
  const bool numbered = cellOf(0).width() >= px(15);
  for (std::size_t i = 0; i < m_order.size(); ++i) {
    QRectF cell = cellOf(i);
    cell.adjust(0.5, 1, cell.width() > 4 ? -1.5 : 0, -1);
    const double share = double(m_order[i]) / std::max(1, most);
    const bool gone = m_dragged == int(i);
    const QColor tone = theme::mixed(c.lilac, c.slate, share);
    p.setPen(Qt::NoPen);
    p.setBrush(gone       ? theme::mixed(tone, c.raised, 0.15)
               : numbered ? theme::mixed(tone, c.raised, 0.4)
                          : theme::markOf(tone, c.raised, 0));
    if (hasFocus() && i == m_chosen) p.setPen(QPen(c.text, 1.5));
    p.drawRoundedRect(cell, 3, 3);
    if (numbered)
      theme::drawText(p, cell, Qt::AlignCenter, QString::number(m_order[i] + 1), theme::Type::Small,
                      gone ? c.quiet : c.text);
  }
  if (m_dragged < 0) return;
  if (m_at.y() < -px(12) || m_at.y() > height() + px(12)) return; // it will be left out
  const double x = std::clamp(double(gapAt(m_at.x())) * cellOf(0).width(), 1.0, width() - 1.0);
  p.fillRect(QRectF(x - 1, 0, 2, height()), c.brass);
}

void OrderStrip::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || m_order.empty()) return;
  const double each = cellOf(0).width();
  m_chosen = std::min(m_order.size() - 1, std::size_t(std::max(0.0, event->position().x() / each)));
  m_dragged = int(m_chosen);
  m_at = m_from = event->position();
  setCursor(Qt::ClosedHandCursor);
  update();
}

void OrderStrip::mouseMoveEvent(QMouseEvent* event) {
  if (m_dragged < 0) return;
  m_at = event->position();
  update();
}

void OrderStrip::mouseReleaseEvent(QMouseEvent* event) {
  if (m_dragged < 0) return;
  const auto from = std::size_t(m_dragged);
  m_dragged = -1;
  setCursor(Qt::OpenHandCursor);
  update();
  const QPointF at = event->position();
  if ((at - m_from).manhattanLength() < px(4)) return; // a click chooses
  if (at.y() < -px(12) || at.y() > height() + px(12)) {
    auto order = m_order;
    if (order.size() < 2) return;
    order.erase(order.begin() + std::ptrdiff_t(from));
    return change(std::move(order), from);
  }
  move(from, gapAt(at.x()));
}

void OrderStrip::move(std::size_t from, std::size_t gap) {
  if (gap == from || gap == from + 1) return;
  auto order = m_order;
  const auto first = order.begin();
  if (gap > from)
    std::rotate(first + std::ptrdiff_t(from), first + std::ptrdiff_t(from + 1),
                first + std::ptrdiff_t(gap));
  else
    std::rotate(first + std::ptrdiff_t(gap), first + std::ptrdiff_t(from),
                first + std::ptrdiff_t(from + 1));
  change(std::move(order), gap > from ? gap - 1 : gap);
}

void OrderStrip::change(std::vector<int> order, std::size_t chosen) {
  m_order = std::move(order);
  m_chosen = std::min(chosen, m_order.size() - 1);
  updateGeometry();
  update();
  emit reordered(m_order);
}

/// Its keys are its own while it has the focus: elsewhere they cut and remove slices.
bool OrderStrip::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride) {
    const auto* key = static_cast<QKeyEvent*>(event);
    for (int own : {Qt::Key_Left, Qt::Key_Right, Qt::Key_Insert, Qt::Key_Delete})
      if (key->key() == own) {
        event->accept();
        return true;
      }
  }
  return QWidget::event(event);
}

void OrderStrip::keyPressEvent(QKeyEvent* event) {
  if (m_order.empty()) return QWidget::keyPressEvent(event);
  const bool moves = event->modifiers() & Qt::ControlModifier;
  auto order = m_order;
  switch (event->key()) {
  case Qt::Key_Left:
    if (m_chosen == 0) return;
    if (moves) return move(m_chosen, m_chosen - 1);
    --m_chosen;
    break;
  case Qt::Key_Right:
    if (m_chosen + 1 >= m_order.size()) return;
    if (moves) return move(m_chosen, m_chosen + 2);
    ++m_chosen;
    break;
  case Qt::Key_Insert:
    if (order.size() >= kMostPieces) return;
    order.insert(order.begin() + std::ptrdiff_t(m_chosen), order[m_chosen]);
    return change(std::move(order), m_chosen + 1);
  case Qt::Key_Delete:
    if (order.size() < 2) return;
    order.erase(order.begin() + std::ptrdiff_t(m_chosen));
    return change(std::move(order), m_chosen);
  default:
    return QWidget::keyPressEvent(event);
  }
  update();
}

} // namespace tuvvo
