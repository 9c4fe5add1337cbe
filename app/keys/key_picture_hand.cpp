// Dragging in the key's picture, and what its grips say.
#include "keys/key_picture.h"

#include "model/edits.h"
#include "theme/theme.h"

#include <QHelpEvent>
#include <QToolTip>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

/// The curve that passes the middle of a slope at a height; the other way round.
double curveThrough(QPointF from, QPointF to, double y) {
  const double done = std::clamp((y - from.y()) / (to.y() - from.y()), 0.031, 0.969);
  return std::clamp(-2 * std::log(1 / done - 1) / std::log(1000.0), -1.0, 1.0);
}

} // namespace

KeyPicture::Grip KeyPicture::gripAt(QPointF point) const {
  const Key* k = key();
  if (!k) return Grip::None;
  Grip best = Grip::None;
  double nearest = px(12);
  for (const Handle& handle : handles(*k))
    if (const double d = QLineF(handle.at, point).length(); d < nearest) {
      nearest = d;
      best = handle.grip;
    }
  if (best == Grip::None && timeField().contains(point)) return Grip::Lane;
  return best;
}

void KeyPicture::mousePressEvent(QMouseEvent* event) {
  const Key* k = key();
  if (!k || event->button() != Qt::LeftButton) return;
  m_grip = gripAt(event->position());
  m_pressed = event->position();
  m_moved = false;
  if (m_grip != Grip::Lane) return;
  const QRectF f = timeField();
  setLayer(int((m_pressed.y() - f.top()) / f.height() * double(k->layers.size() + 1)));
  m_pressedPlay = layerAsKey(*k, m_layer).own;
}

void KeyPicture::drag(Key& key, Grip grip, QPointF at) const {
  const QRectF f = timeField();
  const double all = shownMs(key), ms = std::clamp((at.x() - f.left()) / f.width(), 0.0, 1.0) * all,
               level = std::clamp((f.bottom() - at.y()) / f.height(), 0.0, 1.0);
  auto& e = key.envelope;
  auto& moves = key.filterEnvelope;
  const auto c = corners(e, key);
  const auto fall = [&](Envelope& of) {
    of.decay = Milliseconds(std::max(0.0, ms - of.attack.value - of.hold.value));
    of.sustain = level;
  };
  const QRectF field = filterField();
  const auto octavesFrom = [&](Hertz corner, double off) {
    return std::log2(hzAt(at.x()) / (corner.value > 0 ? corner.value : off));
  };
  switch (grip) {
  case Grip::Attack:
    e.attack = Milliseconds(ms);
    break;
  case Grip::Sustain:
    fall(e);
    break;
  case Grip::Release:
    e.release = Milliseconds(std::max(5.0, (at.x() - c[4].x()) / f.width() * all));
    break;
  case Grip::AttackBend:
    e.attackCurve = curveThrough(c[0], c[1], at.y());
    break;
  case Grip::DecayBend:
    e.decayCurve = curveThrough(c[2], c[3], at.y());
    break;
  case Grip::ReleaseBend:
    e.releaseCurve = curveThrough(c[4], c[5], at.y());
    break;
  case Grip::FilterAttack:
    moves.shape.attack = Milliseconds(ms);
    break;
  case Grip::FilterSustain:
    fall(moves.shape);
    break;
  case Grip::HighPass:
  case Grip::LowPass: {
    const double hz = hzAt(at.x());
    if (grip == Grip::HighPass)
      key.highPass = Hertz(hz < 21 ? 0 : hz);
    else
      key.lowPass = Hertz(hz > 19e3 ? 0 : hz);
    const double up = (0.5 - (at.y() - field.top()) / field.height()) / 0.45 * 24;
    key.resonance = Decibels(std::round(std::clamp(up, 0.0, 24.0) * 2) / 2);
    break;
  }
  case Grip::HighMoves:
    moves.highMoves = octavesFrom(key.highPass, 20);
    break;
  case Grip::LowMoves:
    moves.lowMoves = octavesFrom(key.lowPass, 20e3);
    break;
  case Grip::Lane: {
    LayerPlay& play = playOf(key, m_layer);
    const double across = at.x() - m_pressed.x(), up = m_pressed.y() - at.y();
    play = m_pressedPlay;
    if (std::abs(across) >= std::abs(up))
      play.delay = Milliseconds(
          std::round(std::max(0.0, m_pressedPlay.delay.value + across / f.width() * all) * 10) /
          10);
    else
      play.level = Decibels(std::round((m_pressedPlay.level.value + up / px(6)) * 2) / 2);
    break;
  }
  case Grip::None:
    break;
  }
}

void KeyPicture::mouseMoveEvent(QMouseEvent* event) {
  const Key* k = key();
  if (!k) return;
  if (!(event->buttons() & Qt::LeftButton) || m_grip == Grip::None) {
    const Grip grip = gripAt(event->position());
    setCursor(grip == Grip::None   ? Qt::ArrowCursor
              : grip == Grip::Lane ? Qt::PointingHandCursor
                                   : Qt::SizeAllCursor);
    return;
  }
  // Without layers the wave is for striking; a little movement is no drag.
  if (m_grip == Grip::Lane && k->layers.empty()) return;
  if (!m_moved && QLineF(m_pressed, event->position()).length() < px(4)) return;
  if (!m_moved && m_grip == Grip::Sustain) {
    // Where both stand on one place, across means the attack and down the fall.
    const auto attack = placeOf(Grip::Attack), fall = placeOf(Grip::Sustain);
    const QPointF way = event->position() - m_pressed;
    if (QLineF(*attack, *fall).length() < px(6) && std::abs(way.x()) > std::abs(way.y()))
      m_grip = Grip::Attack;
  }
  m_moved = true;
  edit(m_grip == Grip::Lane ? tr("Place a layer") : tr("Shape the sound"),
       withKeyChanged(project(), k->id,
                      [&](Key& changed) { drag(changed, m_grip, event->position()); }),
       QStringLiteral("key picture %1").arg(int(m_grip)));
}

void KeyPicture::mouseReleaseEvent(QMouseEvent*) {
  if (m_moved)
    settle();
  else if (const Key* k = key(); k && m_grip == Grip::Lane)
    playKey(k->id, 0.9);
  m_grip = Grip::None;
}

bool KeyPicture::event(QEvent* event) {
  if (event->type() != QEvent::ToolTip) return Panel::event(event);
  const auto* help = static_cast<QHelpEvent*>(event);
  QString text;
  switch (gripAt(help->pos())) {
  case Grip::None:
    text = tr("What the filters let through, by frequency");
    break;
  case Grip::Lane:
    text = key()->layers.empty() ? tr("Click to hear it")
                                 : tr("Click to hear it; drag across for delay, up for level");
    break;
  case Grip::Attack:
    text = tr("Attack");
    break;
  case Grip::Sustain:
    text = tr("Decay, and the level it stays at");
    break;
  case Grip::Release:
    text = tr("Release");
    break;
  case Grip::AttackBend:
  case Grip::DecayBend:
  case Grip::ReleaseBend:
    text = tr("How the slope bends");
    break;
  case Grip::FilterAttack:
    text = tr("Attack of the filters' envelope");
    break;
  case Grip::FilterSustain:
    text = tr("Decay of the filters' envelope, and where it stays");
    break;
  case Grip::HighPass:
    text = tr("High-pass corner; up for resonance; to the left edge for none");
    break;
  case Grip::LowPass:
    text = tr("Low-pass corner; up for resonance; to the right edge for none");
    break;
  case Grip::HighMoves:
    text = tr("Where the envelope takes the high-pass");
    break;
  case Grip::LowMoves:
    text = tr("Where the envelope takes the low-pass");
    break;
  }
  QToolTip::showText(help->globalPos(), text, this);
  return true;
}

} // namespace tuvvo
