#include "widgets/flow_row.h"

#include <QWidget>

namespace tuvvo {

FlowRow::FlowRow(int gap, QWidget* parent) : QLayout(parent), m_gap(gap) {
  setContentsMargins(0, 0, 0, 0);
}

FlowRow::~FlowRow() { qDeleteAll(m_items); }

QLayoutItem* FlowRow::takeAt(int index) {
  return index >= 0 && index < m_items.size() ? m_items.takeAt(index) : nullptr;
}

/// Lines of items that stand on the same foot: figures under labels beside plain buttons.
int FlowRow::lay(const QRect& whole, bool really) const {
  const QMargins margins = contentsMargins();
  const QRect rect = whole.marginsRemoved(margins);
  int x = rect.left(), y = rect.top(), lineHeight = 0;
  QList<std::pair<QLayoutItem*, int>> line; // with their left edges
  const auto place = [&] {
    for (const auto& [item, left] : line) {
      const QSize size = item->sizeHint();
      item->setGeometry(QRect(QPoint(left, y + lineHeight - size.height()), size));
    }
    line.clear();
  };
  for (QLayoutItem* item : m_items) {
    if (item->isEmpty()) continue;
    const QSize size = item->sizeHint();
    if (x > rect.left() && x + size.width() > rect.right() + 1) {
      if (really) place();
      line.clear();
      x = rect.left();
      y += lineHeight + m_gap;
      lineHeight = 0;
    }
    line << std::pair{item, x};
    x += size.width() + m_gap;
    lineHeight = std::max(lineHeight, size.height());
  }
  if (really) place();
  return y + lineHeight - rect.top() + margins.top() + margins.bottom();
}

int FlowRow::heightForWidth(int width) const { return lay(QRect(0, 0, width, 0), false); }

QSize FlowRow::sizeHint() const {
  int width = 0, height = 0;
  for (QLayoutItem* item : m_items) {
    width += item->sizeHint().width() + m_gap;
    height = std::max(height, item->sizeHint().height());
  }
  const QMargins margins = contentsMargins();
  return {width + margins.left() + margins.right(), height + margins.top() + margins.bottom()};
}

QSize FlowRow::minimumSize() const {
  QSize least;
  for (QLayoutItem* item : m_items) least = least.expandedTo(item->minimumSize());
  // What holds it may not ask for a height by width: it needs as many lines as it has now.
  if (m_width > 0) least.setHeight(std::max(least.height(), heightForWidth(m_width)));
  return least;
}

void FlowRow::setGeometry(const QRect& rect) {
  QLayout::setGeometry(rect);
  const bool other = heightForWidth(rect.width()) != heightForWidth(std::max(1, m_width));
  m_width = rect.width();
  lay(rect, true);
  if (other) invalidate();
  if (other && parentWidget()) QMetaObject::invokeMethod(parentWidget(), &QWidget::updateGeometry);
}

} // namespace tuvvo
