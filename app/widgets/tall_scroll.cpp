#include "widgets/tall_scroll.h"

#include <QEvent>

namespace tuvvo {

TallScroll::TallScroll(QWidget* content, int least, QWidget* parent)
    : QScrollArea(parent), m_least(least) {
  setFrameShape(QFrame::NoFrame);
  setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  setWidgetResizable(true);
  setFocusPolicy(Qt::NoFocus); // what is inside has it, and is scrolled to
  setSizePolicy(QSizePolicy::Preferred, QSizePolicy::Preferred);
  setWidget(content);
  content->installEventFilter(this);
}

/// Rows that go on in the next line ask for as many lines as they have at their width.
QSize TallScroll::sizeHint() const {
  return {widget()->sizeHint().width(), widget()->minimumSizeHint().height()};
}

QSize TallScroll::minimumSizeHint() const {
  return {widget()->minimumSizeHint().width(),
          std::min(m_least, widget()->minimumSizeHint().height())};
}

bool TallScroll::eventFilter(QObject* object, QEvent* event) {
  if (object == widget() && event->type() == QEvent::LayoutRequest) updateGeometry();
  return QScrollArea::eventFilter(object, event);
}

} // namespace tuvvo
