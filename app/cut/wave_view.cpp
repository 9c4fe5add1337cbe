#include "cut/wave_view.h"

#include "cut/slicing.h"
#include "model/edits.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainterPath>
#include <cmath>

namespace tuvvo {

using theme::px;

void drawHitSign(QPainter& p, HitClass hit, QPointF at, double s, QColor colour) {
  p.setPen(QPen(colour, 1.7, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
  switch (hit) {
  case HitClass::Kick: {
    p.setBrush(colour);
    p.setPen(Qt::NoPen);
    QPainterPath bowl;
    bowl.moveTo(at + QPointF(-s, -s * 0.5));
    bowl.arcTo(QRectF(at.x() - s, at.y() - s * 1.4, 2 * s, 2 * s * 0.95), 180, 180);
    p.drawPath(bowl);
    break;
  }
  case HitClass::Snare:
    p.drawLine(at + QPointF(0, -s), at + QPointF(0, s * 0.8));
    p.drawLine(at + QPointF(-s * 0.55, s * 0.8), at + QPointF(s * 0.55, s * 0.8));
    break;
  case HitClass::Hat:
    p.setBrush(Qt::NoBrush);
    p.drawPolyline(QPolygonF({at + QPointF(-s * 0.75, -s * 0.8), at + QPointF(0, s * 0.7),
                              at + QPointF(s * 0.75, -s * 0.8)}));
    break;
  case HitClass::Other:
    p.setPen(Qt::NoPen);
    p.setBrush(colour);
    p.drawEllipse(at, s * 0.38, s * 0.38);
    break;
  }
}

WaveView::WaveView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  setAccessibleName(tr("Waveform with cuts"));
  setToolTip(tr("Click a slice to hear it; drag its start; double-click to cut; wheel zooms where "
                "the pointer is, with Shift it moves. Keys: arrows choose, Ctrl+arrows move the "
                "start, Insert cuts, Delete removes."));
  setFocusPolicy(Qt::StrongFocus);
  setMouseTracking(true);
  setMinimumHeight(px(84));
  connect(&session, &Session::changed, this, [this] {
    if (m_session.selection().source != m_shown) showAll();
    update();
  });
  connect(&session, &Session::selectionChanged, this, [this] {
    if (m_session.selection().source != m_shown) showAll();
    update();
  });
  showAll();
}

const Source* WaveView::source() const {
  const Source* s = findSource(m_session.project(), m_session.selection().source);
  return s && s->sound ? s : nullptr;
}

QRectF WaveView::ruler() const { return QRectF(0, 0, width(), px(20)); }
QRectF WaveView::tabs() const { return QRectF(0, height() - px(22), width(), px(22)); }
QRectF WaveView::marks() const { return QRectF(0, tabs().top() - px(20), width(), px(20)); }
QRectF WaveView::wave() const {
  return QRectF(0, ruler().bottom(), width(), marks().top() - ruler().bottom());
}
double WaveView::frameAt(double x) const { return m_first + x / std::max(1, width()) * m_span; }
double WaveView::xOf(double frame) const { return (frame - m_first) / m_span * width(); }

void WaveView::showAll() {
  m_shown = m_session.selection().source;
  m_first = 0;
  m_span = source() ? double(source()->sound->frames().value) : 1;
  emit viewChanged();
  update();
}

void WaveView::keepInside() {
  const double all = source() ? double(source()->sound->frames().value) : 1;
  m_span = std::clamp(m_span, std::min(64.0, all), all);
  m_first = std::clamp(m_first, 0.0, all - m_span);
  emit viewChanged();
  update();
}

void WaveView::zoom(double factor, double around) {
  const double share = (around - m_first) / m_span;
  const double before = m_span;
  m_span *= factor;
  const double all = source() ? double(source()->sound->frames().value) : 1;
  m_span = std::clamp(m_span, std::min(64.0, all), all);
  if (m_span != before) m_first = around - share * m_span;
  keepInside();
}

const Cut* WaveView::cutAt(double frame) const {
  const Source* s = source();
  if (!s) return nullptr;
  for (const auto& cut : s->cuts)
    if (frame >= double(cut.start.value) && frame < double(cut.end.value)) return &cut;
  return nullptr;
}

void WaveView::drawRuler(QPainter& p, const Source& s) {
  const auto& c = theme::colours();
  const double rate = s.sound->rate().value;
  const auto beats = beatsOf(s);
  const auto grid = gridOf(s);
  if (beats.empty() || !grid) {
    // Without a tempo the ruler counts seconds.
    double step = 0.01;
    while (step * rate / m_span * width() < px(60)) step *= step < 1 ? 10 : 5;
    for (double t = std::ceil(m_first / rate / step) * step; t * rate < m_first + m_span;
         t += step) {
      const double x = xOf(t * rate);
      p.fillRect(QRectF(x, px(12), 1, px(8)), c.line);
      theme::drawText(p, QRectF(x + 3, 0, px(60), px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                      QStringLiteral("%1 s").arg(t, 0, 'f', step < 1 ? 2 : 0), theme::Type::Small,
                      c.quiet);
    }
    return;
  }
  // Bars are counted from the first downbeat; beats before it have no number.
  int index = 0;
  for (std::size_t i = 0; i < beats.size(); ++i)
    if (std::abs(beats[i].value - grid->downbeat.value) <
        std::abs(beats[std::size_t(index)].value - grid->downbeat.value))
      index = int(i);
  const double perBeat = double(width()) / m_span * 60 / grid->tempo.value * rate;
  int every = 1;
  while (perBeat * grid->meter * every < px(26)) every *= 2;
  for (std::size_t i = 0; i < beats.size(); ++i) {
    const double x = xOf(beats[i].value * rate);
    if (x < -px(30) || x > width() + 2) continue;
    const int from = int(i) - index,
              bar = from >= 0 ? from / grid->meter : (from - grid->meter + 1) / grid->meter;
    const bool down = from - bar * grid->meter == 0;
    if (down && bar % every == 0) {
      p.fillRect(QRectF(x, ruler().top(), 1, wave().bottom()), theme::mixed(c.line, c.ground, 0.9));
      if (bar >= 0)
        theme::drawText(p, QRectF(x + px(4), 0, px(40), px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                        QString::number(bar + 1), theme::Type::Small, c.quiet);
      if (from == 0) { // the handle of the first downbeat
        p.setPen(Qt::NoPen);
        p.setBrush(c.brass);
        p.drawPolygon(
            QPolygonF({QPointF(x - px(5), 1), QPointF(x + px(5), 1), QPointF(x, px(10))}));
      }
    } else if (perBeat > px(9)) {
      p.fillRect(QRectF(x, px(14), 1, px(6)), c.line);
    }
  }
}

void WaveView::drawWave(QPainter& p, const Source& s) {
  const auto& c = theme::colours();
  const QRectF box = wave();
  const PeaksPtr peaks = m_session.peaksOf(s);
  if (!peaks) {
    theme::drawText(p, box, Qt::AlignCenter, tr("Drawing the waveform…"), theme::Type::Body,
                    c.quiet);
    return;
  }
  if (const auto grid = gridOf(s); grid && s.cutting.fromDownbeat) { // set aside
    const double x = xOf(grid->downbeat.value * s.sound->rate().value);
    if (x > 0) p.fillRect(QRectF(0, box.top(), x, box.height()), QBrush(c.line, Qt::BDiagPattern));
  }
  const Id chosen = m_session.selection().cut;
  const auto& also = m_session.selection().alsoCuts;
  for (const auto& cut : s.cuts)
    if (cut.id == chosen || also.contains(cut.id)) {
      const double x = xOf(double(cut.start.value)), end = xOf(double(cut.end.value));
      p.fillRect(QRectF(x, box.top(), end - x, box.height()),
                 theme::mixed(c.brass, c.ground, 0.22));
    }
  p.drawPixmap(box.topLeft(), inkOf(s, *peaks));
  p.setRenderHint(QPainter::Antialiasing, false);
  double last = -10;
  for (const auto& cut : s.cuts) {
    const double x = std::floor(xOf(double(cut.start.value)));
    if (x < 0 || x > width() || x - last < 2) continue;
    last = x;
    p.fillRect(QRectF(x, box.top(), 1, box.height() + marks().height()),
               cut.id == chosen ? c.brass : theme::mixed(c.quiet, c.ground, 0.7));
  }
  p.setRenderHint(QPainter::Antialiasing, true);
  drawChords(p, s);
}

/// What is heard over it, where there is room for the name.
void WaveView::drawChords(QPainter& p, const Source& s) {
  if (!s.heard || kindOf(s) == SoundKind::Break) return;
  const auto& c = theme::colours();
  const QRectF box = wave();
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  const double rate = s.sound->rate().value;
  double last = 0;
  const std::string* before = nullptr;
  for (const auto& chord : s.heard->chords) {
    const bool goesOn = before && *before == chord.name;
    before = &chord.name;
    if (goesOn) continue;
    const QString name = QString::fromStdString(chord.name);
    const double x = std::max(box.left(), xOf(chord.start.value * rate)) + px(4),
                 end = std::min(box.right(), xOf(chord.end.value * rate)),
                 wide = metrics.horizontalAdvance(name);
    if (name.isEmpty() || x < last || x + wide > end) continue;
    const QRectF plate(x - px(2), box.top() + px(3), wide + px(5), px(15));
    p.fillRect(plate, c.ground);
    theme::drawText(p, plate, Qt::AlignCenter, name, theme::Type::Small, c.lilac);
    last = plate.right();
  }
}

/// The waveform alone, drawn anew only when it looks different.
const QPixmap& WaveView::inkOf(const Source& s, const Peaks& peaks) {
  const QRectF box = wave();
  const InkKey key{s.hash, m_first, m_span, box.size(), devicePixelRatioF()};
  if (key == m_inkKey && !m_ink.isNull()) return m_ink;
  m_inkKey = key;
  m_ink = QPixmap((box.size() * key.ratio).toSize());
  m_ink.setDevicePixelRatio(key.ratio);
  m_ink.fill(Qt::transparent);
  QPainter p(&m_ink);
  const double mid = box.height() / 2, half = mid - 3, step = m_span / std::max(1, width());
  const auto& c = theme::colours();
  QList<QLineF> lines;
  lines.reserve(width());
  for (int x = 0; x < width(); ++x) {
    const Extremes e = peaks.over(*s.sound, Frames(std::int64_t(m_first + x * step)),
                                  Frames(std::int64_t(std::ceil(m_first + (x + 1) * step))));
    lines << QLineF(x + 0.5, mid - double(std::min(1.0f, e.high)) * half - 0.5, x + 0.5,
                    mid - double(std::max(-1.0f, e.low)) * half + 0.5);
  }
  p.setPen(QPen(theme::mixed(c.text, c.ground, 0.78), 1));
  p.drawLines(lines);
  return m_ink;
}

void WaveView::drawMarks(QPainter& p, const Source& s) {
  if (!s.heard) return;
  const auto& c = theme::colours();
  const double rate = s.sound->rate().value, y = marks().center().y();
  double last = -100;
  for (const auto& onset : onsetsOf(s)) {
    const double x = xOf(onset.at.value * rate) + px(6);
    if (x < 0 || x > width() || x - last < px(11)) continue;
    last = x;
    drawHitSign(p, onset.hits.empty() ? HitClass::Other : onset.hits.front(), {x, y}, px(5),
                c.quiet);
  }
}

void WaveView::drawTabs(QPainter& p, const Source& s) {
  const auto& c = theme::colours();
  const QRectF row = tabs();
  const Id chosen = m_session.selection().cut;
  double last = -10;
  for (const auto& cut : s.cuts) {
    const double x = xOf(double(cut.start.value)), end = xOf(double(cut.end.value));
    if (end < 0 || x > width() || x - last < 3) continue;
    last = x;
    const QRectF box(x + 1, row.top(), std::max(3.0, end - x - 2), row.height() - 1);
    const bool on = cut.id == chosen || m_session.selection().alsoCuts.contains(cut.id);
    p.setPen(QPen(on ? c.brass : cut.byHand ? c.mint : c.line, 1));
    p.setBrush(on ? c.brass : c.raised);
    if (box.width() < px(8)) { // nobody sees the corners of hundreds of them
      p.fillRect(box, p.brush());
      if (on || cut.byHand) p.fillRect(box, p.pen().color());
      continue;
    }
    p.drawRoundedRect(box, 3, 3);
    if (box.width() < px(13)) continue;
    // The key that plays it: its place on the deck, and the page where there are several.
    QString label = QStringLiteral("·");
    for (const auto& key : m_session.project().keys)
      if (key.sound == SoundRef{s.id, cut.id}) label = QString::number(key.column + 1);
    theme::drawText(p, box.adjusted(4, 0, -2, 0), Qt::AlignLeft | Qt::AlignVCenter, label,
                    theme::Type::Small, on ? c.ground : c.text);
  }
}

void WaveView::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), c.ground);
  const Source* s = source();
  if (!s) {
    theme::drawText(p, rect(), Qt::AlignCenter,
                    tr("Choose a source in the crate, or drop a sound here."), theme::Type::Body,
                    c.quiet);
    return;
  }
  drawRuler(p, *s);
  drawWave(p, *s);
  drawMarks(p, *s);
  drawTabs(p, *s);
  if (m_place.value >= 0)
    p.fillRect(QRectF(xOf(m_place.value * s->sound->rate().value) - 1, 0, 2, height()), c.coral);
  if (hasFocus()) {
    p.setPen(QPen(theme::mixed(c.brass, c.ground, 0.7), 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(wave().adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  }
}

void WaveView::mousePressEvent(QMouseEvent* event) {
  const Source* s = source();
  if (!s) return;
  const double x = event->position().x();
  m_pressX = x;
  m_pressFirst = m_first;
  if (event->button() == Qt::MiddleButton) {
    m_drag = Drag::Pan;
    return;
  }
  if (event->button() != Qt::LeftButton) return;
  const auto grid = gridOf(*s);
  if (grid && ruler().contains(event->position()) &&
      std::abs(x - xOf(grid->downbeat.value * s->sound->rate().value)) < px(8)) {
    m_drag = Drag::Downbeat;
    return;
  }
  const Cut* chosen = findCut(*s, m_session.selection().cut);
  if (chosen && std::abs(x - xOf(double(chosen->end.value))) < px(4) &&
      !cutAt(double(chosen->end.value))) {
    m_drag = Drag::End;
    m_dragCut = chosen->id;
    return;
  }
  for (const auto& cut : s->cuts)
    if (std::abs(x - xOf(double(cut.start.value))) < px(4)) {
      m_drag = Drag::Edge;
      m_dragCut = cut.id;
      m_session.selectCut(s->id, cut.id);
      return;
    }
  if (const Cut* cut = cutAt(frameAt(x))) {
    if (event->modifiers() & Qt::ShiftModifier) return m_session.extendToCut(cut->id);
    if (event->modifiers() & Qt::ControlModifier) return m_session.toggleCut(cut->id);
    m_session.selectCut(s->id, cut->id);
    m_session.strike(m_session.selection().key, 0.9);
  }
}

void WaveView::mouseMoveEvent(QMouseEvent* event) {
  const Source* s = source();
  if (!s) return;
  const double frame = frameAt(event->position().x());
  Frames at(std::int64_t(std::llround(frame)));
  if (!(event->modifiers() & Qt::AltModifier)) at = snapped(*s, at); // Alt places it freely
  switch (m_drag) {
  case Drag::Pan:
    m_first = m_pressFirst - (event->position().x() - m_pressX) / width() * m_span;
    keepInside();
    break;
  case Drag::Edge:
    m_session.edit(
        tr("Move a cut"),
        withCuts(m_session.project(), s->id, s->cutting, withCutStartMoved(*s, m_dragCut, at)),
        QStringLiteral("cut edge"));
    break;
  case Drag::End:
    m_session.edit(
        tr("Move a cut's end"),
        withCuts(m_session.project(), s->id, s->cutting, withCutEndMoved(*s, m_dragCut, at)),
        QStringLiteral("cut end"));
    break;
  case Drag::Downbeat:
    m_session.edit(tr("Move the first downbeat"),
                   withSourceChanged(m_session.project(), s->id,
                                     [&](Source& x) {
                                       x.corrections.downbeat =
                                           std::max(Seconds(0), toSeconds(at, x.sound->rate()));
                                     }),
                   QStringLiteral("downbeat"));
    break;
  case Drag::None: {
    bool edge = false;
    for (const auto& cut : s->cuts)
      edge = edge || std::abs(event->position().x() - xOf(double(cut.start.value))) < px(4);
    setCursor(edge ? Qt::SplitHCursor : Qt::ArrowCursor);
  }
  }
}

void WaveView::mouseReleaseEvent(QMouseEvent*) {
  if (m_drag != Drag::None) m_session.settle();
  m_drag = Drag::None;
}

void WaveView::mouseDoubleClickEvent(QMouseEvent* event) {
  const Source* s = source();
  if (!s || event->button() != Qt::LeftButton) return;
  Frames at(std::int64_t(frameAt(event->position().x())));
  if (!(event->modifiers() & Qt::AltModifier)) at = snapped(*s, at);
  m_session.edit(tr("Add a cut"),
                 withCuts(m_session.project(), s->id, s->cutting, withCutAdded(*s, at)));
}

void WaveView::wheelEvent(QWheelEvent* event) {
  const double turn =
      event->angleDelta().y() != 0 ? event->angleDelta().y() : event->angleDelta().x();
  if (event->modifiers() & Qt::ShiftModifier || event->angleDelta().y() == 0) {
    m_first -= turn / 120 * m_span * 0.1;
    keepInside();
  } else {
    zoom(std::pow(0.8, turn / 120), frameAt(event->position().x()));
  }
  event->accept();
}

void WaveView::showPlace(Seconds place) {
  m_place = place;
  update();
}

void WaveView::stepCut(int steps) {
  const Source* s = source();
  if (!s || s->cuts.empty()) return;
  int at = -1;
  for (std::size_t i = 0; i < s->cuts.size(); ++i)
    if (s->cuts[i].id == m_session.selection().cut) at = int(i);
  at = at < 0 ? (steps > 0 ? 0 : int(s->cuts.size()) - 1)
              : std::clamp(at + steps, 0, int(s->cuts.size()) - 1);
  const Cut& cut = s->cuts[std::size_t(at)];
  const double start = double(cut.start.value);
  m_session.selectCut(s->id, cut.id);
  m_session.strike(m_session.selection().key, 0.9);
  if (start < m_first || start > m_first + m_span * 0.95) {
    m_first = start - m_span * 0.1;
    keepInside();
  }
}

void WaveView::nudgeStart(double ms) {
  const Source* s = source();
  const Cut* cut = s ? findCut(*s, m_session.selection().cut) : nullptr;
  if (!cut) return;
  const Frames to = cut->start + toFrames(Milliseconds(ms), s->sound->rate());
  m_session.edit(
      tr("Move a cut"),
      withCuts(m_session.project(), s->id, s->cutting, withCutStartMoved(*s, cut->id, to)),
      QStringLiteral("cut nudge"));
}

void WaveView::keyPressEvent(QKeyEvent* event) {
  const bool control = event->modifiers() & Qt::ControlModifier;
  const double fine = event->modifiers() & Qt::ShiftModifier ? 0.1 : 1.0;
  switch (event->key()) {
  case Qt::Key_Left:
    control ? nudgeStart(-fine) : stepCut(-1);
    break;
  case Qt::Key_Right:
    control ? nudgeStart(fine) : stepCut(1);
    break;
  case Qt::Key_Up:
    zoom(0.7, m_first + m_span / 2);
    break;
  case Qt::Key_Down:
    zoom(1 / 0.7, m_first + m_span / 2);
    break;
  case Qt::Key_Home:
    showAll();
    break;
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tuvvo
