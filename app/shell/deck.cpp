#include "shell/deck.h"
#include "session/controller_service.h"
#include "session/music_text.h"
#include "session/peaks_cache.h"
#include "session/recorder.h"
#include "session/transport.h"

#include "model/edits.h"
#include "theme/theme.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
// evdev codes of the leftmost key of each row, plus 8: 1, Q, A, Z.
constexpr std::array<quint32, kRowCount> kFirstScan{10, 24, 38, 52};
const std::array<const char*, kRowCount> kUsLetters{"12345678", "QWERTYUI", "ASDFGHJK", "ZXCVBNM,"};
int slot(DeckPlace place) { return int(place.row) * kColumns + place.column; }
} // namespace

std::optional<DeckPlace> deckPlaceOf(const QKeyEvent& event) {
  if (const quint32 scan = event.nativeScanCode(); scan > 8) {
    for (int row = 0; row < kRowCount; ++row)
      if (scan >= kFirstScan[std::size_t(row)] && scan < kFirstScan[std::size_t(row)] + kColumns)
        return DeckPlace{Row(row), int(scan - kFirstScan[std::size_t(row)])};
    return std::nullopt;
  }
  for (int row = 0; row < kRowCount; ++row)
    for (int column = 0; column < kColumns; ++column)
      if (event.key() == kUsLetters[std::size_t(row)][column]) return DeckPlace{Row(row), column};
  return std::nullopt;
}

namespace {
// Right of each row: 9 0, O P, L ;, . / (on a US layout).
constexpr std::array<quint32, kPerformanceKeys> kHandScans{18, 19, 32, 33, 46, 47, 60, 61};
const char* const kHandLetters = "90OPL;./";

QString tipOf(PerformanceKey key) {
  switch (key) {
  case PerformanceKey::Softer:
    return Deck::tr("Play softer: the velocity slide goes down by a tenth");
  case PerformanceKey::Harder:
    return Deck::tr("Play harder: the velocity slide goes up by a tenth");
  case PerformanceKey::Spread:
    return Deck::tr("Lay the chosen key's sound over the whole deck, or take it off");
  case PerformanceKey::Page:
    return Deck::tr("Next page of cuts");
  case PerformanceKey::Roll:
    return Deck::tr("While this is down, held keys repeat");
  case PerformanceKey::Soft:
    return Deck::tr("Velocity variation: hits differ a little");
  case PerformanceKey::Erase:
    return Deck::tr("While this is down, held keys take their hits out as the pattern passes them");
  case PerformanceKey::Catch:
    break;
  }
  return Deck::tr("Keep what I just played: lay it into the pattern, recorded or not");
}
} // namespace

std::optional<PerformanceKey> performanceKeyOf(const QKeyEvent& event) {
  if (const quint32 scan = event.nativeScanCode(); scan > 8) {
    for (int i = 0; i < kPerformanceKeys; ++i)
      if (scan == kHandScans[std::size_t(i)]) return PerformanceKey(i);
    return std::nullopt;
  }
  for (int i = 0; i < kPerformanceKeys; ++i)
    if (event.key() == kHandLetters[i]) return PerformanceKey(i);
  return std::nullopt;
}

Deck::Deck(Panel& host, const Uses& uses, QWidget* parent)
    : Panel(host, parent), m_hand(uses.hand), m_recorder(uses.recorder), m_player(uses.player),
      m_peaks(uses.peaks), m_controllers(uses.controllers) {
  setAccessibleName(tr("Key deck"));
  setMouseTracking(true);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  const auto repaint = qOverload<>(&QWidget::update);
  connect(this, &Panel::changed, this, repaint);
  connect(this, &Panel::selectionChanged, this, repaint);
  connect(&uses.transport, &Transport::tick, this, repaint);
  connect(&m_hand, &DeckHand::changed, this, repaint);
  connect(&m_peaks, &PeaksCache::arrived, this, repaint);
}

QSize Deck::sizeHint() const { return {px(640), px(15 + 40 * m_rows)}; }

void Deck::setRows(int rows) {
  if (rows == m_rows) return;
  m_rows = rows;
  updateGeometry();
  update();
}

QString Deck::letterOf(DeckPlace place) const {
  return m_letters.value(slot(place),
                         QString(QLatin1Char(kUsLetters[std::size_t(place.row)][place.column])));
}

QString Deck::letterOf(PerformanceKey key) const {
  return m_letters.value(kRowCount * kColumns + int(key),
                         QString(QLatin1Char(kHandLetters[int(key)])));
}

const Key* Deck::keyOn(DeckPlace place) const { return m_hand.keyUnder(place.row, place.column); }

namespace {
constexpr double kHandShare = 0.52; ///< of a cap's width: a hand key
}

QRectF Deck::capOf(DeckPlace place) const {
  if (int(place.row) >= m_rows) return {};
  const double left = px(72), stagger = px(24), gap = px(5), margin = px(10);
  const double rowHeight = (height() - 2 * margin + gap) / m_rows;
  const double cap =
      (width() - left - margin - stagger * 3 - px(8) + gap) / (kColumns + 2 * kHandShare);
  return QRectF(left + stagger * int(place.row) + cap * place.column,
                margin + rowHeight * int(place.row), cap - gap, rowHeight - gap);
}

QRectF Deck::capOf(PerformanceKey key) const {
  if (int(key) / 2 >= m_rows) return {};
  const QRectF last = capOf({Row(int(key) / 2), kColumns - 1});
  const double gap = px(5), width = (last.width() + gap) * kHandShare;
  return {last.right() + gap + px(8) + width * (int(key) % 2), last.top(), width - gap,
          last.height()};
}

std::optional<DeckPlace> Deck::placeAt(QPointF point) const {
  for (int row = 0; row < kRowCount; ++row)
    for (int column = 0; column < kColumns; ++column)
      if (const DeckPlace place{Row(row), column}; capOf(place).contains(point)) return place;
  return std::nullopt;
}

std::optional<PerformanceKey> Deck::handKeyAt(QPointF point) const {
  for (int i = 0; i < kPerformanceKeys; ++i)
    if (capOf(PerformanceKey(i)).contains(point)) return PerformanceKey(i);
  return std::nullopt;
}

bool Deck::handKey(PerformanceKey key, bool down) {
  auto hand = m_hand.settings();
  switch (key) {
  case PerformanceKey::Softer:
  case PerformanceKey::Harder:
    if (down) hand.velocity += key == PerformanceKey::Harder ? 0.1 : -0.1;
    break;
  case PerformanceKey::Roll:
    hand.roll = down;
    break;
  case PerformanceKey::Soft:
    if (down) hand.soft = hand.soft > 0 ? 0 : 0.08;
    break;
  case PerformanceKey::Erase:
    hand.erase = down;
    break;
  case PerformanceKey::Spread:
    if (down) m_hand.setSpread(hand.spread ? std::nullopt : std::optional(SpreadBy::Semitones));
    return true;
  case PerformanceKey::Page:
    if (down) {
      const int pages = cutPages(project());
      setPage((selection().page + 1) % pages);
    }
    return true;
  case PerformanceKey::Catch:
    if (down) m_recorder.catchThat();
    return true;
  }
  m_hand.set(hand);
  return true;
}

void Deck::press(DeckPlace place, double velocity) {
  const int at = slot(place);
  const Id key = m_hand.press({place.row, place.column, std::uint32_t(at) + 1, velocity});
  if (key == 0) return;
  m_down.insert(at);
  selectKey(key);
}

void Deck::lift(DeckPlace place) {
  if (m_down.remove(slot(place))) m_hand.lift(std::uint32_t(slot(place)) + 1);
}

bool Deck::keyEvent(const QKeyEvent& event, bool down) {
  const auto hand = performanceKeyOf(event);
  const auto place = deckPlaceOf(event);
  if (!place && !hand) return false;
  if (event.isAutoRepeat()) return true;
  if (const QString text = event.text();
      down && text.size() == 1 && text[0].isPrint() && !(event.modifiers() & Qt::ShiftModifier))
    m_letters[place ? slot(*place) : kRowCount * kColumns + int(*hand)] = text.toUpper();
  if (hand) return handKey(*hand, down);
  if (!down) {
    lift(*place);
    update();
    return true;
  }
  press(*place, event.modifiers() & Qt::ShiftModifier ? 1.0 : 0.0); // Shift accents
  if (int(place->row) >= m_rows) emit playedUnseen();
  update();
  return true;
}

void Deck::letAllGo() {
  for (int at : std::as_const(m_down)) m_hand.lift(std::uint32_t(at) + 1);
  m_down.clear();
  auto hand = m_hand.settings();
  hand.roll = hand.erase = false;
  m_hand.set(hand);
  update();
}

void Deck::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const QRectF first = capOf({Row::Cuts, 0});
  if (event->position().x() < first.left() && event->position().y() < first.bottom()) {
    const int pages = cutPages(project());
    const int step = event->position().x() < px(40) ? pages - 1 : 1;
    setPage((selection().page + step) % pages);
    return;
  }
  if (const auto hand = handKeyAt(event->position())) {
    // Without a third hand, what is held on the keyboard is switched by the pointer.
    const auto& settings = m_hand.settings();
    const bool on = *hand == PerformanceKey::Roll    ? !settings.roll
                    : *hand == PerformanceKey::Erase ? !settings.erase
                                                     : true;
    handKey(*hand, on);
    update();
    return;
  }
  const auto place = placeAt(event->position());
  if (!place || !keyOn(*place)) return;
  // Higher on the cap is louder.
  const QRectF box = capOf(*place);
  press(*place,
        std::clamp(1.05 - 0.7 * (event->position().y() - box.top()) / box.height(), 0.2, 1.0));
  m_pointed = place;
}

void Deck::mouseReleaseEvent(QMouseEvent*) {
  if (m_pointed) lift(*m_pointed);
  m_pointed.reset();
  update();
}

void Deck::contextMenuEvent(QContextMenuEvent* event) {
  const auto place = placeAt(event->pos());
  if (!place) return;
  QMenu menu(this);
  const Id source = selection().source;
  if (const Source* s = findSource(project(), source))
    menu.addAction(tr("Put %1 here").arg(QString::fromStdString(s->name)), this, [this, place, s] {
      edit(tr("Put a sound on a key"), withKeySound(project(), place->row, place->column,
                                                    selection().page, {s->id, 0}, s->name));
    });
  if (const Key* key = keyOn(*place)) {
    addMuteActions(menu, *key);
    menu.addAction(tr("Play it by a controller: the next note"), this, [this, place] {
      m_controllers.learnKey({place->row, place->column});
      emit message(m_controllers.learning(), false);
    });
    menu.addAction(tr("Clear this key"), this,
                   [this, id = key->id] { edit(tr("Clear a key"), withoutKey(project(), id)); });
  }
  if (!menu.isEmpty()) menu.exec(event->globalPos());
}

/// Mute and solo of the key and of its row.
void Deck::addMuteActions(QMenu& menu, const Key& key) {
  const auto add = [&](const QString& text, bool now, Whose whose, bool solo) {
    QAction* action = menu.addAction(text, this, [this, text, id = key.id, whose, solo] {
      edit(text, withMuteFlipped(project(), id, whose, solo));
    });
    action->setCheckable(true);
    action->setChecked(now);
  };
  const MuteSolo& row = project().roles[std::size_t(key.row)];
  add(tr("Mute this key"), key.muteSolo.muted, Whose::Key, false);
  add(tr("Solo this key"), key.muteSolo.solo, Whose::Key, true);
  add(tr("Mute the whole row"), row.muted, Whose::Role, false);
  add(tr("Solo the whole row"), row.solo, Whose::Role, true);
}

bool Deck::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    auto* help = static_cast<QHelpEvent*>(event);
    if (const auto hand = handKeyAt(help->pos())) {
      QToolTip::showText(help->globalPos(), tipOf(*hand), this);
      return true;
    }
    const auto place = placeAt(help->pos());
    const Key* key = place ? keyOn(*place) : nullptr;
    const Source* source = key ? findSource(project(), key->sound.source) : nullptr;
    if (source)
      QToolTip::showText(
          help->globalPos(),
          tr("%1 from %2. Press %3 to play, with Shift louder; right-click for more.")
              .arg(nameText(project(), *key), QString::fromStdString(source->name),
                   letterOf(*place)),
          this);
    else if (place)
      QToolTip::showText(help->globalPos(), tr("Free. Right-click to put the chosen source here."),
                         this);
    else
      QToolTip::hideText();
    return true;
  }
  return Panel::event(event);
}

} // namespace tuvvo
