#include "beat/ribbons_view.h"

#include "base/tempo_map.h"
#include "beat/feel.h"
#include "beat/pins.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/signs.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace tuvvo {

using theme::px;

RibbonsView::RibbonsView(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  setAccessibleName(tr("Ribbons"));
  setToolTip(tr("Click to set a pin, click a pin to choose it, drag it: up is louder, sideways "
                "moves it, with Alt it only leans. Right-click removes. Keys: arrows move, Enter "
                "sets or takes a pin, + and − for velocity, Ctrl+arrows lean."));
  setFocusPolicy(Qt::StrongFocus);
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, [this] {
      updateGeometry();
      update();
    });
  connect(&session, &Session::tick, this, qOverload<>(&QWidget::update));
}

PatternPtr RibbonsView::pattern() const {
  return findPattern(m_session.project(), m_session.selection().pattern);
}

double RibbonsView::beats() const {
  const PatternPtr p = pattern();
  return p ? p->bars * m_session.project().beatsPerBar : 8;
}

/// Parts of this pattern first, in the order of the deck from high to low; then the rest.
std::vector<RibbonsView::Ribbon> RibbonsView::ribbons() const {
  std::vector<Ribbon> out;
  const PatternPtr p = pattern();
  std::vector<Part> parts;
  const auto used = [&](const Part& part) {
    const Lane* lane = p ? findLane(*p, part.id) : nullptr;
    return lane && !lane->pins.empty();
  };
  for (const auto& part : m_session.project().parts) parts.push_back(part);
  std::stable_sort(parts.begin(), parts.end(), [&](const Part& a, const Part& b) {
    if (used(a) != used(b)) return used(a);
    return theme::placeOf(a.role) < theme::placeOf(b.role);
  });
  double y = px(4);
  for (const auto& part : parts) {
    Ribbon ribbon{part, {}, false};
    const Lane* lane = p ? findLane(*p, part.id) : nullptr;
    if (lane)
      for (const auto& pin : lane->pins) ribbon.tones = ribbon.tones || pin.tune.value != 0;
    const double h = !used(part) ? px(26) : ribbon.tones ? px(84) : px(48);
    ribbon.box = QRectF(0, y, width() - 1, h);
    y += h + px(5);
    out.push_back(ribbon);
  }
  return out;
}

int RibbonsView::heightNeeded() const {
  const auto all = ribbons();
  return all.empty() ? px(60) : int(all.back().box.bottom()) + px(6);
}

double RibbonsView::xOf(const Ribbon& ribbon, double beat) const {
  const double left = ribbon.box.left() + px(124), right = ribbon.box.right() - px(8);
  return left + beat / beats() * (right - left);
}

double RibbonsView::heardBeat(const Pin& pin, const Lane& lane) const {
  const TempoMap tempo(m_session.project().tempo);
  return inBeats(swung(pin.at, lane.swing, lane.swingPairs)) +
         (pin.lean + lane.lean).value / 1000 * tempo.tempo().value / 60;
}

QPointF RibbonsView::tipOf(const Ribbon& ribbon, const Pin& pin, const Lane& lane) const {
  const double top = ribbon.box.top() + px(6), bottom = ribbon.box.bottom() - px(4);
  return {xOf(ribbon, heardBeat(pin, lane)),
          bottom - (bottom - top) * (0.15 + 0.85 * pin.velocity)};
}

void RibbonsView::drawHead(QPainter& p, const Ribbon& ribbon) {
  const auto& c = theme::colours();
  const QColor tone = theme::ofRow(ribbon.part.role);
  const bool low = ribbon.box.height() < px(40), here = ribbon.part.id == currentPart();
  p.setPen(Qt::NoPen);
  p.setBrush(here ? theme::mixed(c.raised, c.panel, 0.6) : c.panel);
  p.drawRoundedRect(ribbon.box, 5, 5);
  p.fillRect(QRectF(ribbon.box.left(), ribbon.box.top() + 3, 3, ribbon.box.height() - 6), tone);
  const bool silent = ribbon.part.muted;
  QRectF name(ribbon.box.left() + px(12), ribbon.box.top() + (low ? 0 : px(5)), px(104),
              low ? ribbon.box.height() : px(18));
  theme::drawText(p, name, Qt::AlignLeft | Qt::AlignVCenter,
                  QString::fromStdString(ribbon.part.name), theme::Type::Strong,
                  silent ? c.quiet : c.text);
  if (low) return;
  const PatternPtr pat = pattern();
  const Lane* lane = pat ? findLane(*pat, ribbon.part.id) : nullptr;
  QStringList feel;
  if (silent) feel << tr("muted");
  if (lane && lane->lean.value != 0)
    feel << tr("%1 ms").arg((lane->lean.value > 0 ? QStringLiteral("+") : QStringLiteral("−")) +
                            QString::number(std::abs(lane->lean.value), 'f', 0));
  if (lane && lane->swing != 50) feel << tr("sw %1").arg(lane->swing, 0, 'f', 0);
  theme::drawText(p, name.translated(0, px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                  feel.isEmpty() ? tr("straight") : feel.join(QStringLiteral(" · ")),
                  theme::Type::Small, c.quiet);
}

void RibbonsView::drawTones(QPainter& p, const Ribbon& ribbon, const Lane& lane) {
  double low = 0, high = 0;
  for (const auto& pin : lane.pins) {
    low = std::min(low, pin.tune.value);
    high = std::max(high, pin.tune.value);
  }
  const double span = std::max(7.0, high - low), top = ribbon.box.top() + px(9),
               room = ribbon.box.height() - px(20);
  const auto y = [&](double tune) { return top + (high - tune) / span * room; };
  const QColor tone = theme::ofRow(ribbon.part.role);
  const auto& c = theme::colours();
  const auto key = [&](const Pin& pin) {
    return pin == m_chosen && ribbon.part.id == m_chosenPart;
  };
  for (const auto& pin : lane.pins) {
    const double length = pin.length.value > 0 ? inBeats(pin.length) : 0.5;
    const double x = xOf(ribbon, heardBeat(pin, lane)),
                 end = xOf(ribbon, std::min(beats(), heardBeat(pin, lane) + length));
    p.setPen(key(pin) ? QPen(c.text, 1.5) : QPen(Qt::NoPen));
    p.setBrush(theme::mixed(tone, c.panel, 0.35 + 0.65 * pin.velocity));
    p.drawRoundedRect(QRectF(x, y(pin.tune.value) - px(4), std::max(4.0, end - x - 1), px(9)), 3,
                      3);
  }
}

void RibbonsView::drawLane(QPainter& p, const Ribbon& ribbon, const Lane& lane) {
  const auto& c = theme::colours();
  if (ribbon.tones) {
    drawTones(p, ribbon, lane);
    return;
  }
  const QColor tone = theme::ofRow(ribbon.part.role);
  const double bottom = ribbon.box.bottom() - px(4);
  for (const auto& pin : lane.pins) {
    const double ruled = xOf(ribbon, inBeats(pin.at));
    const QPointF tip = tipOf(ribbon, pin, lane);
    const bool chosen = pin == m_chosen && ribbon.part.id == m_chosenPart;
    // The feel's pull as a shade from the ruled line to where it sounds.
    const double pulled =
        xOf(ribbon, inBeats(swung(pin.at, lane.swing, lane.swingPairs)) +
                        lane.lean.value / 1000 * m_session.project().tempo.value / 60);
    if (std::abs(pulled - ruled) > 1)
      p.fillRect(QRectF(std::min(ruled, pulled), ribbon.box.top() + px(6), std::abs(pulled - ruled),
                        bottom - ribbon.box.top() - px(6)),
                 theme::mixed(tone, c.panel, 0.14));
    p.setPen(QPen(chosen ? c.text : tone, chosen ? 2.4 : 1.8, Qt::SolidLine, Qt::RoundCap));
    // Foot on the ruled line, head where it is heard: a pin that is late leans to the right.
    p.drawLine(QPointF(ruled, bottom), tip);
    const Key* key = findKey(m_session.project(), pin.key);
    const QColor ink = chosen ? c.text : tone;
    if (ribbon.part.role == Row::Cuts) {
      const QRectF flag(tip.x(), tip.y() - px(2), px(18), px(13));
      p.setPen(Qt::NoPen);
      p.setBrush(ink);
      p.drawRoundedRect(flag, 3, 3);
      if (key)
        theme::drawText(p, flag, Qt::AlignCenter, QString::number(key->column + 1),
                        theme::Type::Small, c.ground);
    } else {
      const HitClass sign = ribbon.part.role == Row::Floor ? HitClass::Kick
                            : ribbon.part.role == Row::Air ? HitClass::Hat
                                                           : HitClass::Snare;
      drawHitSign(p, sign, tip + QPointF(0, px(1)), px(4), ink);
    }
  }
}

void RibbonsView::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), c.ground);
  const PatternPtr pat = pattern();
  if (!pat) return;
  const int meter = m_session.project().beatsPerBar;
  const double place = m_session.positionBeats();
  const bool running =
      m_session.playing() && m_session.plays() == Session::Plays::Pattern && place >= 0;
  for (const auto& ribbon : ribbons()) {
    drawHead(p, ribbon);
    const double perBeat = xOf(ribbon, 1) - xOf(ribbon, 0);
    for (int line = 0; line <= int(beats()) * grid; ++line) {
      const bool beat = line % grid == 0, bar = line % (grid * meter) == 0;
      if (!beat && perBeat / grid < px(6)) continue;
      p.fillRect(QRectF(xOf(ribbon, double(line) / grid), ribbon.box.top() + 2, 1,
                        ribbon.box.height() - 4),
                 theme::mixed(c.line, c.panel,
                              bar    ? 0.95
                              : beat ? 0.5
                                     : 0.22));
    }
    if (const Lane* lane = findLane(*pat, ribbon.part.id)) drawLane(p, ribbon, *lane);
    if (hasFocus() && ribbon.part.id == currentPart()) {
      p.setPen(QPen(c.brass, 1.5));
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(QRectF(xOf(ribbon, double(m_cursor) / double(kTicksPerBeat)) - px(4),
                               ribbon.box.top() + 2, px(8), ribbon.box.height() - 4),
                        3, 3);
    }
    if (running)
      p.fillRect(QRectF(xOf(ribbon, std::fmod(place, beats())), ribbon.box.top(), 1.5,
                        ribbon.box.height()),
                 c.text);
  }
}

Id RibbonsView::currentPart() const {
  if (findPart(m_session.project(), m_part)) return m_part;
  const auto all = ribbons();
  return all.empty() ? 0 : all.front().part.id;
}

/// The key that a new pin plays: the selected one if it writes here, else the part's first.
Id RibbonsView::keyForNew(const Part& part) const {
  const Key* selected = findKey(m_session.project(), m_session.selection().key);
  if (selected && selected->part == part.id) return selected->id;
  for (const auto& key : m_session.project().keys)
    if (key.part == part.id) return key.id;
  return 0;
}

void RibbonsView::addPin(const Ribbon& ribbon, Beats at, double velocity) {
  Pin pin;
  pin.at = at;
  pin.key = keyForNew(ribbon.part);
  pin.velocity = std::clamp(velocity, 0.1, 1.0);
  if (const Key* key = findKey(m_session.project(), pin.key); key && key->gate)
    pin.length = Beats(kTicksPerBeat / 2);
  if (pin.key == 0) return;
  m_session.edit(
      tr("Set a pin"),
      withPatternChanged(m_session.project(), m_session.selection().pattern, [&](Pattern& p) {
        p = withPin(p, ribbon.part.id, pin, m_session.project().beatsPerBar);
      }));
  m_chosen = pin;
  m_chosenPart = ribbon.part.id;
  m_session.selectKey(pin.key);
  if (!m_session.playing()) m_session.hear(pin.key, pin.velocity);
  emit chosenChanged();
}

void RibbonsView::mousePressEvent(QMouseEvent* event) {
  const PatternPtr pat = pattern();
  if (!pat) return;
  for (const auto& ribbon : ribbons()) {
    if (!ribbon.box.contains(event->position())) continue;
    m_part = ribbon.part.id;
    const double x = event->position().x();
    if (x < xOf(ribbon, 0) - px(6)) {
      m_session.selectKey(keyForNew(ribbon.part));
      update();
      return;
    }
    const Lane* lane = findLane(*pat, ribbon.part.id);
    const Pin* hit = nullptr;
    double nearest = px(7);
    if (lane)
      for (const auto& pin : lane->pins) {
        double d = std::min(std::abs(x - tipOf(ribbon, pin, *lane).x()),
                            std::abs(x - xOf(ribbon, inBeats(pin.at))));
        if (ribbon.tones && pin.length.value > 0 && x >= xOf(ribbon, heardBeat(pin, *lane)) &&
            x < xOf(ribbon, heardBeat(pin, *lane) + inBeats(pin.length)))
          d = 0;
        if (d < nearest) {
          nearest = d;
          hit = &pin;
        }
      }
    if (event->button() == Qt::RightButton) {
      if (hit)
        m_session.edit(tr("Take a pin out"),
                       withPatternChanged(m_session.project(), pat->id, [&](Pattern& p) {
                         p = withoutPins(p, ribbon.part.id, {*hit});
                       }));
      return;
    }
    if (hit) {
      m_chosen = m_pressed = *hit;
      m_chosenPart = ribbon.part.id;
      m_press = event->position();
      m_dragging = true;
      m_session.selectKey(hit->key);
      emit chosenChanged();
      update();
      return;
    }
    const std::int64_t step = kTicksPerBeat / grid;
    const double beat = (x - xOf(ribbon, 0)) / (xOf(ribbon, 1) - xOf(ribbon, 0));
    const std::int64_t at = std::llround(beat * grid) * step;
    m_cursor = std::clamp<std::int64_t>(at, 0, std::int64_t(beats()) * kTicksPerBeat - step);
    addPin(ribbon, Beats(m_cursor),
           1.05 - (event->position().y() - ribbon.box.top()) / ribbon.box.height());
    return;
  }
}

void RibbonsView::mouseMoveEvent(QMouseEvent* event) {
  if (!m_dragging) return;
  for (const auto& ribbon : ribbons()) {
    if (ribbon.part.id != m_chosenPart) continue;
    const double perBeat = xOf(ribbon, 1) - xOf(ribbon, 0),
                 dx = event->position().x() - m_press.x(), dy = event->position().y() - m_press.y();
    if (std::abs(dx) + std::abs(dy) < 3) return;
    Pin moved = m_pressed;
    if (!ribbon.tones)
      moved.velocity =
          std::clamp(m_pressed.velocity - dy / (ribbon.box.height() - px(10)), 0.05, 1.0);
    else
      moved.tune =
          Semitones(std::clamp(std::round(m_pressed.tune.value - dy / px(6)), -48.0, 48.0));
    if (event->modifiers() & Qt::AltModifier) {
      moved.lean = Milliseconds(std::clamp(
          std::round(m_pressed.lean.value + dx / perBeat * 60000 / m_session.project().tempo.value),
          -200.0, 200.0));
    } else {
      const std::int64_t step = kTicksPerBeat / grid;
      moved.at = Beats(
          std::clamp<std::int64_t>(m_pressed.at.value + std::llround(dx / perBeat * grid) * step, 0,
                                   std::int64_t(beats()) * kTicksPerBeat - 1));
    }
    if (moved == m_chosen) return;
    m_session.edit(tr("Move a pin"),
                   withPatternChanged(m_session.project(), m_session.selection().pattern,
                                      [&](Pattern& p) {
                                        p = withPinsChanged(p, m_chosenPart, {m_chosen},
                                                            [&](Pin& pin) { pin = moved; });
                                      }),
                   QStringLiteral("move pin"));
    m_chosen = moved;
    emit chosenChanged();
  }
}

void RibbonsView::mouseReleaseEvent(QMouseEvent*) {
  m_dragging = false;
  m_session.settle();
}

void RibbonsView::wheelEvent(QWheelEvent* event) {
  // Ctrl and wheel over a pin changes its velocity; the plain wheel scrolls the ribbons.
  if (!(event->modifiers() & Qt::ControlModifier)) {
    event->ignore();
    return;
  }
  changeChosen(tr("Velocity"), [up = event->angleDelta().y() > 0](Pin& pin) {
    pin.velocity = std::clamp(pin.velocity + (up ? 0.05 : -0.05), 0.05, 1.0);
  });
  event->accept();
}

void RibbonsView::changeChosen(const QString& name, const std::function<void(Pin&)>& change) {
  const PatternPtr pat = pattern();
  const Lane* lane = pat ? findLane(*pat, m_chosenPart) : nullptr;
  if (!lane || std::find(lane->pins.begin(), lane->pins.end(), m_chosen) == lane->pins.end())
    return;
  Pin changed = m_chosen;
  change(changed);
  changed.at = Beats(
      std::clamp<std::int64_t>(changed.at.value, 0, std::int64_t(beats()) * kTicksPerBeat - 1));
  m_session.edit(name,
                 withPatternChanged(m_session.project(), pat->id,
                                    [&](Pattern& p) {
                                      p = withPinsChanged(p, m_chosenPart, {m_chosen},
                                                          [&](Pin& pin) { pin = changed; });
                                    }),
                 name);
  m_chosen = changed;
  emit chosenChanged();
}

void RibbonsView::removeChosen() {
  m_session.edit(
      tr("Take a pin out"),
      withPatternChanged(m_session.project(), m_session.selection().pattern,
                         [&](Pattern& p) { p = withoutPins(p, m_chosenPart, {m_chosen}); }));
}

bool RibbonsView::hasPinAtCursor() const {
  const PatternPtr pat = pattern();
  const Lane* lane = pat ? findLane(*pat, currentPart()) : nullptr;
  return lane && std::any_of(lane->pins.begin(), lane->pins.end(),
                             [&](const Pin& pin) { return pin.at.value == m_cursor; });
}

void RibbonsView::togglePinAtCursor() {
  const PatternPtr pat = pattern();
  if (!pat) return;
  for (const auto& ribbon : ribbons()) {
    if (ribbon.part.id != currentPart()) continue;
    m_part = ribbon.part.id; // it stays the one even if the ribbons change their order
    if (!hasPinAtCursor()) {
      addPin(ribbon, Beats(m_cursor), 0.8);
      return;
    }
    std::vector<Pin> here;
    for (const auto& pin : findLane(*pat, ribbon.part.id)->pins)
      if (pin.at.value == m_cursor) here.push_back(pin);
    m_session.edit(tr("Take a pin out"),
                   withPatternChanged(m_session.project(), pat->id, [&](Pattern& p) {
                     p = withoutPins(p, ribbon.part.id, here);
                   }));
    return;
  }
}

void RibbonsView::moveCursor(int steps, int down) {
  const auto all = ribbons();
  if (all.empty()) return;
  std::size_t at = 0;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (all[i].part.id == currentPart()) at = i;
  at = std::size_t(
      std::clamp<std::ptrdiff_t>(std::ptrdiff_t(at) + down, 0, std::ptrdiff_t(all.size()) - 1));
  m_part = all[at].part.id;
  const std::int64_t step = kTicksPerBeat / grid, end = std::int64_t(beats()) * kTicksPerBeat;
  m_cursor = ((m_cursor / step * step + steps * step) % end + end) % end;
  const PatternPtr pat = pattern();
  if (const Lane* lane = pat ? findLane(*pat, m_part) : nullptr)
    for (const auto& pin : lane->pins)
      if (pin.at.value == m_cursor) {
        m_chosen = pin;
        m_chosenPart = m_part;
        emit chosenChanged();
      }
  update();
}

void RibbonsView::keyPressEvent(QKeyEvent* event) {
  const bool control = event->modifiers() & Qt::ControlModifier;
  switch (event->key()) {
  case Qt::Key_Left:
    control ? changeChosen(tr("Lean"), [](Pin& pin) { pin.lean.value -= 1; }) : moveCursor(-1, 0);
    break;
  case Qt::Key_Right:
    control ? changeChosen(tr("Lean"), [](Pin& pin) { pin.lean.value += 1; }) : moveCursor(1, 0);
    break;
  case Qt::Key_Up:
    control ? changeChosen(tr("Tune a pin"), [](Pin& pin) { pin.tune.value += 1; })
            : moveCursor(0, -1);
    break;
  case Qt::Key_Down:
    control ? changeChosen(tr("Tune a pin"), [](Pin& pin) { pin.tune.value -= 1; })
            : moveCursor(0, 1);
    break;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    togglePinAtCursor();
    break;
  case Qt::Key_Plus:
  case Qt::Key_Equal:
    changeChosen(tr("Velocity"),
                 [](Pin& pin) { pin.velocity = std::min(1.0, pin.velocity + 0.05); });
    break;
  case Qt::Key_Minus:
    changeChosen(tr("Velocity"),
                 [](Pin& pin) { pin.velocity = std::max(0.05, pin.velocity - 0.05); });
    break;
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tuvvo
