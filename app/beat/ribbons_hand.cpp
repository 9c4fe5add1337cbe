// Ribbons under a pointer and under keys.
#include "base/convert.h"
#include "beat/ribbons_view.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <cmath>

namespace tuvvo {

using theme::px;

/// The hit under a place: nearest by its head or its foot; a tone by its whole length.
const Hit* RibbonsView::hitAt(const Ribbon& ribbon, const Lane& lane, QPointF at,
                              bool* atEnd) const {
  const PatternPtr pat = pattern();
  const ResolvedTiming timed(project(), pat->meter, lane);
  const double beat = beatAt(at.x());
  const auto first =
      std::lower_bound(lane.hits.begin(), lane.hits.end(), beat - (ribbon.tones ? 64 : 2),
                       [](const Hit& hit, double from) { return inBeats(hit.at) < from; });
  const Hit* found = nullptr;
  double nearest = px(7);
  for (auto hit = first; hit != lane.hits.end() && inBeats(hit->at) < beat + 2; ++hit) {
    const double heard = timed.heardAt(*hit) / double(kTicksPerBeat), x = xOf(heard);
    double d = std::min(std::abs(at.x() - x), std::abs(at.x() - xOf(inBeats(hit->at))));
    bool end = false;
    if (ribbon.tones) {
      const double length = hit->length.value > 0 ? inBeats(hit->length) : 0.5;
      if (std::abs(at.y() - toneY(ribbon, lane, *hit)) >
          (ribbon.open() ? std::max(4.0, rowHeight(ribbon) / 2) : px(7)))
        continue;
      end = std::abs(at.x() - xOf(heard + length)) < px(5);
      if (end || (beat >= heard && beat < heard + length)) d = 0;
    }
    if (d < nearest || (d == 0 && nearest == 0)) {
      nearest = d;
      found = &*hit;
      *atEnd = end;
    }
  }
  return found;
}

void RibbonsView::mousePressEvent(QMouseEvent* event) {
  const PatternPtr pat = pattern();
  if (!pat) return;
  m_press = m_band = event->position();
  for (const auto& ribbon : ribbons()) {
    if (!ribbon.box.contains(m_press)) continue;
    choosePart(ribbon.part.id);
    if (headAt(m_press) != 0) {
      selectKey(keyForNew(ribbon.part));
      return;
    }
    if (event->modifiers() & Qt::ShiftModifier) {
      m_drag = Drag::Band;
      return;
    }
    const Lane* lane = findLane(*pat, ribbon.part.id);
    bool atEnd = false;
    const Hit* found = lane ? hitAt(ribbon, *lane, m_press, &atEnd) : nullptr;
    if (found) {
      const Hit hit = *found;
      if (event->button() == Qt::RightButton) {
        if (!m_choice.contains(ribbon.part.id, hit)) m_choice.chooseOne(ribbon.part.id, hit);
        m_choice.remove();
        return;
      }
      if (event->modifiers() & Qt::ControlModifier) {
        m_choice.toggle(ribbon.part.id, hit);
        return;
      }
      if (!m_choice.contains(ribbon.part.id, hit)) m_choice.chooseOne(ribbon.part.id, hit);
      m_pressed = m_choice.hits();
      m_drag = atEnd ? Drag::Length : Drag::Hits;
      selectKey(hit.key);
      return;
    }
    if (event->button() == Qt::RightButton) return;
    const double beat = beatAt(m_press.x());
    const std::int64_t each = step(), end = laneLength(*pat, ribbon.part.id).value;
    m_cursor = std::clamp<std::int64_t>(
        toNearest<std::int64_t>(beat * double(kTicksPerBeat) / double(each)) * each, 0,
        std::max<std::int64_t>(0, (end - 1) / each * each));
    emit cursorMoved();
    if (ribbon.open())
      addHit(ribbon, Beats(m_cursor), 0.8, noteAt(ribbon, m_press.y()));
    else
      addHit(ribbon, Beats(m_cursor),
             1.05 - (m_press.y() - ribbon.box.top()) / ribbon.box.height());
    return;
  }
}

void RibbonsView::dragHits(const Ribbon& ribbon, QPointF moved, bool leans) {
  const PatternPtr pat = pattern();
  const double beat = moved.x() / (xOf(1) - xOf(0));
  const std::int64_t each = step(),
                     ticks = toNearest<std::int64_t>(beat * double(kTicksPerBeat) / double(each)) *
                             each;
  const double louder = -moved.y() / (ribbon.box.height() - px(10));
  const double higher =
      std::round(-moved.y() / (ribbon.open() ? rowHeight(ribbon) : double(px(6))));
  const double ms = std::round(beat * 60'000 / project().tempo.value);
  m_choice.replace(tr("Move a hit"), tuvvo::changed(*pat, m_pressed, [&](Hit& hit) {
                     if (m_drag == Drag::Length) {
                       const std::int64_t length =
                           hit.length.value > 0 ? hit.length.value : kTicksPerBeat / 2;
                       hit.length = Beats(std::max(std::min(each, length), length + ticks));
                       return;
                     }
                     if (ribbon.tones)
                       hit.tune.value += higher;
                     else
                       hit.velocity = std::clamp(hit.velocity + louder, 0.05, 1.0);
                     if (leans)
                       hit.microTiming.value = std::round(hit.microTiming.value + ms);
                     else
                       hit.at.value += ticks;
                   }));
}

void RibbonsView::mouseMoveEvent(QMouseEvent* event) {
  const QPointF moved = event->position() - m_press;
  if (m_drag == Drag::Band) {
    m_band = event->position();
    update();
    return;
  }
  if (m_drag == Drag::None || std::abs(moved.x()) + std::abs(moved.y()) < 3) return;
  const Id over = m_drag == Drag::Hits ? headAt(event->position()) : 0;
  const bool away = over != 0 && over != currentPart();
  dragOver(away ? over : 0);
  if (away) return m_choice.replace(tr("Move a hit"), m_pressed);
  for (const auto& ribbon : ribbons())
    if (ribbon.part.id == currentPart())
      return dragHits(ribbon, moved, event->modifiers() & Qt::AltModifier);
}

/// The part whose name lies at a place; 0 for none.
Id RibbonsView::headAt(QPointF at) const {
  for (const auto& ribbon : ribbons())
    if (ribbon.box.contains(at) && at.x() < xOf(m_from) - px(6)) return ribbon.part.id;
  return 0;
}

/// Hits that are let go over another part's name go to its key. Over the ribbon itself they would
/// be lost whenever somebody pulls a velocity too far.
void RibbonsView::dragOver(Id part) {
  if (part == m_target) return;
  m_target = part;
  setCursor(part == 0 ? Qt::ArrowCursor : Qt::DragMoveCursor);
  update();
}

/// Chooses what lies in the frame that was drawn.
void RibbonsView::chooseBand() {
  const PatternPtr pat = pattern();
  const QRectF band = QRectF(m_press, m_band).normalized();
  HitClip inside;
  for (const auto& ribbon : ribbons()) {
    const Lane* lane = pat ? findLane(*pat, ribbon.part.id) : nullptr;
    if (!lane || !ribbon.box.intersects(band.adjusted(0, 0, 1, 1))) continue;
    const ResolvedTiming timed(project(), pat->meter, *lane);
    for (const auto& hit : lane->hits) {
      const double x = xOf(timed.heardAt(hit) / double(kTicksPerBeat));
      if (x >= band.left() - px(3) && x <= band.right() + px(3))
        inside.push_back({ribbon.part.id, hit});
    }
  }
  m_choice.choose(std::move(inside));
}

void RibbonsView::mouseDoubleClickEvent(QMouseEvent* event) {
  for (const auto& ribbon : ribbons())
    if (headAt(event->position()) == ribbon.part.id) return flipOpen(ribbon.part.id);
  mousePressEvent(event);
}

void RibbonsView::mouseReleaseEvent(QMouseEvent* event) {
  const Drag was = std::exchange(m_drag, Drag::None);
  const Id target = m_target;
  dragOver(0);
  if (was == Drag::Band) chooseBand();
  if (const Part* part = findPart(project(), target); part && was == Drag::Hits) {
    const Id key = keyForNew(*part);
    m_choice.send(key, event->modifiers() & Qt::ControlModifier ? SendAs::Copy : SendAs::Move);
    choosePart(target);
    selectKey(key);
  }
  update();
  settle();
}

void RibbonsView::wheelEvent(QWheelEvent* event) {
  const QPoint turned = event->angleDelta();
  if (event->modifiers() & Qt::ControlModifier) {
    zoom(std::pow(0.8, turned.y() / 120.0), beatAt(event->position().x()));
  } else if (m_span > 0 && (turned.x() != 0 || (event->modifiers() & Qt::ShiftModifier))) {
    const double by = (turned.x() != 0 ? turned.x() : turned.y()) / 120.0;
    m_from = std::clamp(m_from - by * shown() / 6, 0.0, beats() - shown());
    m_stale = true;
    update();
    emit viewChanged();
  } else {
    event->ignore(); // the plain wheel scrolls the ribbons
    return;
  }
  event->accept();
}

void RibbonsView::keyPressEvent(QKeyEvent* event) {
  const bool control = event->modifiers() & Qt::ControlModifier,
             alt = event->modifiers() & Qt::AltModifier;
  const auto sideways = [&](int by) {
    if (control)
      m_choice.change(tr("Timing"), [by](Hit& hit) { hit.microTiming.value += by; });
    else if (alt)
      m_choice.change(tr("Move a hit"), [this, by](Hit& hit) { hit.at.value += by * step(); });
    else
      moveCursor(by, 0);
  };
  const auto up = [&](int by) {
    if (control)
      m_choice.change(tr("Tune a hit"), [by](Hit& hit) { hit.tune.value += by; });
    else
      moveCursor(0, -by);
  };
  const auto harder = [&](double by) {
    m_choice.change(tr("Velocity"),
                    [by](Hit& hit) { hit.velocity = std::clamp(hit.velocity + by, 0.05, 1.0); });
  };
  switch (event->key()) {
  case Qt::Key_Left:
    sideways(-1);
    break;
  case Qt::Key_Right:
    sideways(1);
    break;
  case Qt::Key_Up:
    up(1);
    break;
  case Qt::Key_Down:
    up(-1);
    break;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    toggleHitAtCursor();
    break;
  case Qt::Key_Plus:
  case Qt::Key_Equal:
    harder(0.05);
    break;
  case Qt::Key_Minus:
    harder(-0.05);
    break;
  case Qt::Key_Escape:
    m_choice.clear();
    break;
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tuvvo
