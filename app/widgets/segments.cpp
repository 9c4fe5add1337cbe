#include "widgets/segments.h"

#include "theme/plate.h"
#include "widgets/signs.h"

#include <QHBoxLayout>
#include <QKeyEvent>

namespace tuvvo {

using theme::px;

namespace {

class Segment : public Press {
public:
  Segment(const QString& text, const QString& tip, std::optional<HitClass> hit, QWidget* parent)
      : Press(text, tip, parent), m_hit(hit) {
    setCheckable(true);
  }

protected:
  int padding() const override { return px(m_hit ? 34 : 20); }
  void paintEvent(QPaintEvent*) override {
    const auto& c = theme::colours();
    QPainter painter(this);
    painter.setRenderHint(QPainter::Antialiasing);
    const QRectF box = QRectF(rect()).adjusted(2, 3, -2, -3);
    const bool on = isChecked();
    if (on || under())
      theme::drawPlate(painter, box, px(4),
                       !on           ? c.raised
                       : isEnabled() ? c.brass
                                     : theme::mixed(c.brass, c.panel, 0.3));
    const QColor ink = on ? c.ground : !isEnabled() ? theme::mixed(c.quiet, c.panel, 0.55) : c.text;
    QRectF face = box;
    if (m_hit) {
      drawHitSign(painter, *m_hit, {box.left() + px(13), box.center().y()}, px(5), ink);
      face.setLeft(box.left() + px(18));
    }
    drawFace(painter, face, ink);
    drawFocus(painter, box, px(4));
  }

private:
  std::optional<HitClass> m_hit;
};

} // namespace

Segments::Segments(const QString& name, Picks picks, QWidget* parent)
    : QWidget(parent), m_picks(picks) {
  setAccessibleName(name);
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(1, 0, 1, 0);
  row->setSpacing(0);
  setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
}

int Segments::add(const QString& text, const QString& tip) {
  return join(new Segment(text, tip, std::nullopt, this));
}

int Segments::add(HitClass hit, const QString& text, const QString& tip) {
  return join(new Segment(text, tip, hit, this));
}

int Segments::join(Press* segment) {
  const int place = count();
  layout()->addWidget(segment);
  m_segments << segment;
  connect(segment, &QAbstractButton::clicked, this, [this, place] {
    if (m_picks == Picks::One) choose(m_chosen); // whoever is asked changes it
    emit wanted(place);
  });
  return place;
}

void Segments::choose(int place) {
  m_chosen = place;
  for (int i = 0; i < count(); ++i) m_segments[i]->setChecked(i == place);
}

void Segments::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QColor rim = isEnabled() ? c.line : theme::mixed(c.line, c.panel, 0.5);
  theme::drawPlate(painter, QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), px(6), c.ground, rim);
  painter.setPen(QPen(rim, 1));
  // A line where two neighbours meet and neither is filled.
  const Press* before = nullptr;
  for (const Press* segment : m_segments) {
    if (segment->isHidden()) continue;
    if (before && !before->isChecked() && !segment->isChecked()) {
      const double x = segment->x() + 0.5;
      painter.drawLine(QPointF(x, px(7)), QPointF(x, height() - px(7)));
    }
    before = segment;
  }
}

void Segments::keyPressEvent(QKeyEvent* event) {
  const int way = event->key() == Qt::Key_Right ? 1 : event->key() == Qt::Key_Left ? -1 : 0;
  int at = -1;
  for (int i = 0; i < count(); ++i)
    if (m_segments[i]->hasFocus()) at = i;
  for (int to = at + way; way != 0 && at >= 0 && to >= 0 && to < count(); to += way)
    if (m_segments[to]->isEnabled() && !m_segments[to]->isHidden()) {
      m_segments[to]->setFocus(Qt::TabFocusReason);
      if (m_picks == Picks::One) emit wanted(to);
      return;
    }
  QWidget::keyPressEvent(event);
}

} // namespace tuvvo
