#include "cut/drift_line.h"

#include "base/convert.h"
#include "model/edits.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <cmath>

namespace tuvvo {

using theme::px;

DriftLine::DriftLine(Panel& host, WaveView& wave, QWidget* parent)
    : Panel(host, parent), m_wave(wave) {
  setAccessibleName(tr("Drift line"));
  setToolTip(
      tr("How early (up) or late (down) it was played, against an even grid through all "
         "beats. Double-click a dot to hold it on the grid or to let it go, drag it to where "
         "it should be. Keys: left and right choose, Enter holds, up and down move by a "
         "millisecond, Delete lets go."));
  setFixedHeight(px(66));
  setFocusPolicy(Qt::StrongFocus);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &DriftLine::refresh);
  connect(&wave, &WaveView::viewChanged, this, qOverload<>(&QWidget::update));
  refresh();
}

const Source* DriftLine::source() const {
  const Source* s = findSource(project(), selection().source);
  return s && s->sound ? s : nullptr;
}

void DriftLine::refresh() {
  const Source* s = source();
  m_anchors.clear();
  m_even.reset();
  if (s) {
    const ResolvedSource resolved(*s);
    m_anchors = anchorsOf(resolved, s->shape.by);
    m_even = resolved.even();
  }
  if (m_chosen >= int(m_anchors.size())) m_chosen = -1;
  if (!m_dragging) { // while a marker is dragged the scale stands still
    m_mostMs = 10;
    if (m_even)
      for (const auto& anchor : m_anchors)
        m_mostMs =
            std::max({m_mostMs, std::abs(anchor.played - anchor.target) * m_even->beatS * 1000,
                      std::abs(lateNow(anchor))});
  }
  update();
}

double DriftLine::xOf(const Anchor& anchor) const {
  const Source* s = source();
  return s ? m_wave.xOf(anchor.at * s->sound->rate().value) : 0;
}

double DriftLine::yOf(double lateMs) const {
  return height() / 2.0 + px(1) + lateMs / m_mostMs * (height() / 2.0 - px(17));
}
double DriftLine::lateAt(double y) const {
  return (y - height() / 2.0 - px(1)) / (height() / 2.0 - px(17)) * m_mostMs;
}

const WarpMarker* DriftLine::markerOf(const Anchor& anchor) const {
  const Source* s = source();
  return s ? markerAt(s->shape, anchor.at) : nullptr;
}

double DriftLine::lateNow(const Anchor& anchor) const {
  const Source* s = source();
  return s && m_even ? (shapedBeat(s->shape, anchor) - anchor.target) * m_even->beatS * 1000 : 0;
}

int DriftLine::anchorNear(double x) const {
  int best = -1;
  double least = px(9);
  for (std::size_t i = 0; i < m_anchors.size(); ++i)
    if (const double off = std::abs(xOf(m_anchors[i]) - x); off < least) {
      least = off;
      best = int(i);
    }
  return best;
}

void DriftLine::setMarker(const Anchor& anchor, double lateMs, const QString& merge) {
  if (!m_even) return;
  const double beat = anchor.target + lateMs / 1000 / m_even->beatS;
  edit(tr("Hold in time"),
       withSourceChanged(project(), selection().source,
                         [&](Source& s) {
                           s.shape = withMarker(s.shape, {Seconds(anchor.at), beat});
                         }),
       merge);
}

void DriftLine::removeMarker(const Anchor& anchor) {
  edit(tr("Let a hit go"), withSourceChanged(project(), selection().source, [&](Source& s) {
         s.shape = withoutMarker(s.shape, Seconds(anchor.at));
       }));
}

namespace {
/// A line through many points, stroke by stroke: joining hundreds of them takes ten times as long.
void drawDense(QPainter& p, const QPolygonF& points) {
  QList<QLineF> strokes;
  for (qsizetype i = 0; i + 1 < points.size(); ++i) strokes << QLineF(points[i], points[i + 1]);
  p.drawLines(strokes);
}
} // namespace

void DriftLine::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Source* s = source();
  if (!s || m_anchors.size() < 3 || !m_even) {
    theme::drawText(p, QRectF(px(2), 0, width() - px(4), px(16)), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("no beats to compare"), theme::Type::Small, c.quiet);
    return;
  }
  theme::drawText(p, QRectF(px(2), 0, px(60), px(16)), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("early"), theme::Type::Small, c.quiet);
  theme::drawText(p, QRectF(px(2), height() - px(15), px(60), px(15)),
                  Qt::AlignLeft | Qt::AlignVCenter, tr("late"), theme::Type::Small, c.quiet);
  double played = 0, now = 0;
  for (const auto& anchor : m_anchors) {
    played = std::max(played, std::abs(anchor.played - anchor.target) * m_even->beatS * 1000);
    now = std::max(now, std::abs(lateNow(anchor)));
  }
  QString figure = played <= 10 ? tr("played even within %1 ms").arg(10)
                                : tr("played up to %1 ms off").arg(toWhole<int>(std::ceil(played)));
  const bool shaped = s->shape.straighten > 0 || !s->shape.markers.empty();
  if (shaped) figure += tr(", now %1 ms").arg(toWhole<int>(std::ceil(now - 0.01)));
  theme::drawText(p, QRectF(px(100), 0, width() - px(104), px(16)),
                  Qt::AlignRight | Qt::AlignVCenter, figure, theme::Type::Small, c.text);
  const double even = yOf(10) - yOf(0); // within 10 ms counts as even
  p.fillRect(QRectF(0, yOf(0) - even, width(), 2 * even), theme::mixed(c.mint, c.ground, 0.14));
  p.fillRect(QRectF(0, yOf(0), width(), 1), c.line);
  QPolygonF line, result;
  for (const auto& anchor : m_anchors) {
    const double x = xOf(anchor);
    if (x < -px(200) || x > width() + px(200)) continue;
    line << QPointF(x, yOf((anchor.played - anchor.target) * m_even->beatS * 1000));
    result << QPointF(x, yOf(lateNow(anchor)));
  }
  const bool dots = line.size() < width() / px(5);
  p.setPen(QPen(shaped ? theme::markOf(c.slate, c.ground, 0) : c.slate, 1.5));
  drawDense(p, line);
  p.setPen(Qt::NoPen);
  p.setBrush(shaped ? theme::markOf(c.slate, c.ground, 0) : c.slate);
  if (dots)
    for (const QPointF& point : line) p.drawEllipse(point, 2.5, 2.5);
  if (shaped) {
    p.setPen(QPen(c.brass, 1.5));
    drawDense(p, result);
  }
  for (const auto& marker : s->shape.markers) { // a nail: head and shaft
    const double late = (marker.beat - std::round(marker.beat * 4) / 4) * m_even->beatS * 1000;
    const QPointF at(m_wave.xOf(marker.at.value * s->sound->rate().value), yOf(late));
    p.setPen(QPen(c.brass, 1.6));
    p.drawLine(at, QPointF(at.x(), yOf(0) + (at.y() < yOf(0) + 1 ? px(9) : -px(9))));
    p.setPen(Qt::NoPen);
    p.setBrush(c.brass);
    p.drawEllipse(at, px(4), px(4));
  }
  if (m_chosen >= 0 && hasFocus()) {
    const Anchor& anchor = m_anchors[std::size_t(m_chosen)];
    p.setPen(QPen(c.text, 1.2));
    p.setBrush(Qt::NoBrush);
    p.drawEllipse(QPointF(xOf(anchor), yOf(lateNow(anchor))), px(6), px(6));
  }
  if (hasFocus()) {
    p.setPen(QPen(theme::markOf(c.brass, c.ground, 0.5), 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, px(15), -0.5, -0.5), 3, 3);
  }
}

void DriftLine::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  m_chosen = anchorNear(event->position().x());
  m_dragging = m_chosen >= 0 && markerOf(m_anchors[std::size_t(m_chosen)]);
  update();
}

void DriftLine::mouseMoveEvent(QMouseEvent* event) {
  if (!(event->buttons() & Qt::LeftButton) || m_chosen < 0) return;
  const double late = lateAt(event->position().y());
  const Anchor anchor = m_anchors[std::size_t(m_chosen)];
  // A dot that is not pinned yet has to be pulled a little before it is taken.
  if (!m_dragging && std::abs(event->position().y() - yOf(lateNow(anchor))) < px(4)) return;
  m_dragging = true;
  setMarker(anchor, std::clamp(late, -m_mostMs * 1.2, m_mostMs * 1.2), QStringLiteral("time pin"));
}

void DriftLine::mouseReleaseEvent(QMouseEvent*) {
  if (m_dragging) settle();
  m_dragging = false;
  refresh();
}

void DriftLine::mouseDoubleClickEvent(QMouseEvent* event) {
  const int near = anchorNear(event->position().x());
  if (near < 0) return;
  m_chosen = near;
  m_dragging = false;
  const Anchor anchor = m_anchors[std::size_t(near)];
  markerOf(anchor) ? removeMarker(anchor) : setMarker(anchor, 0);
}

bool DriftLine::event(QEvent* event) {
  // Delete lets go of a marker here; elsewhere in the stage it takes a cut away.
  if (event->type() == QEvent::ShortcutOverride &&
      static_cast<QKeyEvent*>(event)->key() == Qt::Key_Delete) {
    event->accept();
    return true;
  }
  return Panel::event(event);
}

void DriftLine::keyPressEvent(QKeyEvent* event) {
  const int last = int(m_anchors.size()) - 1;
  if (last < 0) return QWidget::keyPressEvent(event);
  const bool chosen = m_chosen >= 0;
  const Anchor anchor = m_anchors[std::size_t(std::max(0, m_chosen))];
  const double fine = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
  switch (event->key()) {
  case Qt::Key_Left:
    m_chosen = chosen ? std::max(0, m_chosen - 1) : last;
    break;
  case Qt::Key_Right:
    m_chosen = chosen ? std::min(last, m_chosen + 1) : 0;
    break;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    if (chosen) markerOf(anchor) ? removeMarker(anchor) : setMarker(anchor, 0);
    break;
  case Qt::Key_Delete:
    if (chosen && markerOf(anchor)) removeMarker(anchor);
    break;
  case Qt::Key_Up:
    if (chosen) setMarker(anchor, lateNow(anchor) - fine, QStringLiteral("time pin"));
    break;
  case Qt::Key_Down:
    if (chosen) setMarker(anchor, lateNow(anchor) + fine, QStringLiteral("time pin"));
    break;
  default:
    return QWidget::keyPressEvent(event);
  }
  update();
}

} // namespace tuvvo
