#include "panel/picture_panel.h"

namespace tuvvo {

PicturePanel::PicturePanel(Panel& host, QWidget* parent, Ground ground)
    : Panel(host, parent), m_ground(ground) {
  setAttribute(Qt::WA_OpaquePaintEvent); // nothing under it is painted
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &PicturePanel::drawAnew);
}

void PicturePanel::drawAnew() {
  ++m_changes;
  update();
}

void PicturePanel::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  m_picture.draw(p, rect(), theme::colours().*m_ground, m_changes,
                 [this](QPainter& to) { draw(to); });
  drawMoving(p);
}

void PicturePanel::focusInEvent(QFocusEvent* event) {
  drawAnew();
  Panel::focusInEvent(event);
}

void PicturePanel::focusOutEvent(QFocusEvent* event) {
  drawAnew();
  Panel::focusOutEvent(event);
}

} // namespace tuvvo
