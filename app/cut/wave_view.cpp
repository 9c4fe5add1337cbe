#include "cut/wave_view.h"

#include "base/convert.h"
#include "cut/slicing.h"
#include "model/edits.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kFrameMs = 16;
constexpr double kGlide = 0.35; ///< of the way that is left, in a frame
} // namespace

WaveView::WaveView(Panel& host, PeaksCache& peaks, QWidget* parent)
    : Panel(host, parent), m_peaks(peaks) {
  setAccessibleName(tr("Waveform with cuts"));
  setToolTip(tr("Click a slice to hear it; drag its start; double-click to cut; wheel zooms where "
                "the pointer is, with Shift it moves. Keys: arrows choose, Ctrl+arrows move the "
                "start, Insert cuts, Delete removes."));
  setFocusPolicy(Qt::StrongFocus);
  setAttribute(Qt::WA_OpaquePaintEvent); // nothing under it is painted
  setMouseTracking(true);
  setMinimumHeight(px(84));
  connect(&peaks, &PeaksCache::arrived, this, &WaveView::drawAnew);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, [this] {
      if (selection().source != m_shown) showAll();
      drawAnew();
    });
  m_frames.setTimerType(Qt::PreciseTimer);
  connect(&m_frames, &QTimer::timeout, this, &WaveView::glideOn);
  showAll();
}

const Source* WaveView::source() const {
  const Source* s = findSource(project(), selection().source);
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
  m_goal.reset();
  m_shown = selection().source;
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

void WaveView::glide(const std::function<void()>& change) {
  const std::pair now{m_first, m_span};
  if (m_goal) std::tie(m_first, m_span) = *m_goal;
  change();
  m_goal = {m_first, m_span};
  std::tie(m_first, m_span) = now;
  if (!isVisible()) return glideOn();
  m_frames.start(kFrameMs);
}

/// A share of what is left in every frame; what is seen to be there is there.
void WaveView::glideOn() {
  if (m_goal) {
    const auto [first, span] = *m_goal;
    m_first += (first - m_first) * kGlide;
    m_span *= std::pow(span / m_span, kGlide);
    const double pixel = span / std::max(1, width());
    if (!isVisible() ||
        (std::abs(first - m_first) < pixel / 2 && std::abs(span - m_span) < pixel)) {
      std::tie(m_first, m_span) = *m_goal;
      m_goal.reset();
    }
  }
  if (!m_goal) m_frames.stop();
  keepInside();
}

void WaveView::drawAnew() {
  ++m_changes;
  update();
}

void WaveView::showSounding(std::map<Id, float> levels) {
  if (levels == m_sounding) return;
  m_sounding = std::move(levels);
  update();
}

const Cut* WaveView::cutAt(double frame) const {
  const Source* s = source();
  if (!s) return nullptr;
  for (const auto& cut : s->cuts)
    if (frame >= double(cut.start.value) && frame < double(cut.end.value)) return &cut;
  return nullptr;
}

void WaveView::mousePressEvent(QMouseEvent* event) {
  const Source* s = source();
  if (!s) return;
  const double x = event->position().x();
  m_goal.reset(); // whoever takes hold of it has it where it is
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
  const Cut* chosen = findCut(*s, selection().cut);
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
      selectCut(s->id, cut.id);
      return;
    }
  if (const Cut* cut = cutAt(frameAt(x))) {
    if (event->modifiers() & Qt::ShiftModifier)
      return select(withCutsUpTo(selection(), project(), cut->id));
    if (event->modifiers() & Qt::ControlModifier)
      return select(withCutToggled(selection(), project(), cut->id));
    selectCut(s->id, cut->id);
    playKey(selection().key, 0.9);
  }
}

void WaveView::mouseMoveEvent(QMouseEvent* event) {
  const Source* s = source();
  if (!s) return;
  const double frame = frameAt(event->position().x());
  Frames at(toNearest<std::int64_t>(frame));
  if (!(event->modifiers() & Qt::AltModifier)) at = snapped(*s, at); // Alt places it freely
  switch (m_drag) {
  case Drag::Pan:
    m_first = m_pressFirst - (event->position().x() - m_pressX) / width() * m_span;
    keepInside();
    break;
  case Drag::Edge:
    edit(tr("Move a cut"),
         withCuts(project(), s->id, s->cutting, withCutStartMoved(*s, m_dragCut, at)),
         QStringLiteral("cut edge"));
    break;
  case Drag::End:
    edit(tr("Move a cut's end"),
         withCuts(project(), s->id, s->cutting, withCutEndMoved(*s, m_dragCut, at)),
         QStringLiteral("cut end"));
    break;
  case Drag::Downbeat:
    edit(tr("Move the first downbeat"),
         withSourceChanged(project(), s->id,
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
  if (m_drag != Drag::None) settle();
  m_drag = Drag::None;
}

void WaveView::mouseDoubleClickEvent(QMouseEvent* event) {
  const Source* s = source();
  if (!s || event->button() != Qt::LeftButton) return;
  Frames at(std::int64_t(frameAt(event->position().x())));
  if (!(event->modifiers() & Qt::AltModifier)) at = snapped(*s, at);
  edit(tr("Add a cut"), withCuts(project(), s->id, s->cutting, withCutAdded(*s, at)));
}

void WaveView::wheelEvent(QWheelEvent* event) {
  const double turn =
      event->angleDelta().y() != 0 ? event->angleDelta().y() : event->angleDelta().x();
  if (event->modifiers() & Qt::ShiftModifier || event->angleDelta().y() == 0) {
    glide([&] {
      m_first -= turn / 120 * m_span * 0.1;
      keepInside();
    });
  } else {
    const double x = event->position().x();
    glide([&] { zoom(std::pow(0.8, turn / 120), frameAt(x)); });
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
    if (s->cuts[i].id == selection().cut) at = int(i);
  at = at < 0 ? (steps > 0 ? 0 : int(s->cuts.size()) - 1)
              : std::clamp(at + steps, 0, int(s->cuts.size()) - 1);
  const Cut& cut = s->cuts[std::size_t(at)];
  const double start = double(cut.start.value);
  selectCut(s->id, cut.id);
  playKey(selection().key, 0.9);
  if (start < m_first || start > m_first + m_span * 0.95)
    glide([&] {
      m_first = start - m_span * 0.1;
      keepInside();
    });
}

void WaveView::nudgeStart(double ms) {
  const Source* s = source();
  const Cut* cut = s ? findCut(*s, selection().cut) : nullptr;
  if (!cut) return;
  const Frames to = cut->start + toFrames(Milliseconds(ms), s->sound->rate());
  edit(tr("Move a cut"), withCuts(project(), s->id, s->cutting, withCutStartMoved(*s, cut->id, to)),
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
    glide([this] { zoom(0.7, m_first + m_span / 2); });
    break;
  case Qt::Key_Down:
    glide([this] { zoom(1 / 0.7, m_first + m_span / 2); });
    break;
  case Qt::Key_Home:
    showAll();
    break;
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tuvvo
