#include "shell/deck.h"

#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/signs.h"
#include "widgets/small_wave.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kRows = 4;
// evdev codes of the leftmost key of each row, plus 8: 1, Q, A, Z.
constexpr std::array<quint32, kRows> kFirstScan{10, 24, 38, 52};
const std::array<const char*, kRows> kUsLetters{"12345678", "QWERTYUI", "ASDFGHJK", "ZXCVBNM,"};
int slot(DeckPlace place) { return int(place.row) * kColumns + place.column; }
} // namespace

std::optional<DeckPlace> deckPlaceOf(const QKeyEvent& event) {
  if (const quint32 scan = event.nativeScanCode(); scan > 8) {
    for (int row = 0; row < kRows; ++row)
      if (scan >= kFirstScan[std::size_t(row)] && scan < kFirstScan[std::size_t(row)] + kColumns)
        return DeckPlace{Row(row), int(scan - kFirstScan[std::size_t(row)])};
    return std::nullopt;
  }
  for (int row = 0; row < kRows; ++row)
    for (int column = 0; column < kColumns; ++column)
      if (event.key() == kUsLetters[std::size_t(row)][column]) return DeckPlace{Row(row), column};
  return std::nullopt;
}

Deck::Deck(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  setAccessibleName(tr("Key deck"));
  setMouseTracking(true);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  for (auto signal : {&Session::changed, &Session::selectionChanged, &Session::tick})
    connect(&session, signal, this, qOverload<>(&QWidget::update));
}

QSize Deck::sizeHint() const { return {px(640), px(176)}; }

QString Deck::letterOf(DeckPlace place) const {
  return m_letters.value(slot(place),
                         QString(QLatin1Char(kUsLetters[std::size_t(place.row)][place.column])));
}

const Key* Deck::keyOn(DeckPlace place) const {
  return keyAt(m_session.project(), place.row, place.column, m_session.selection().page);
}

QRectF Deck::capOf(DeckPlace place) const {
  const double left = px(72), stagger = px(24), gap = px(5), margin = px(10);
  const double rowHeight = (height() - 2 * margin + gap) / kRows;
  const double cap = (width() - left - margin - stagger * 3 + gap) / kColumns;
  return QRectF(left + stagger * int(place.row) + cap * place.column,
                margin + rowHeight * int(place.row), cap - gap, rowHeight - gap);
}

std::optional<DeckPlace> Deck::placeAt(QPointF point) const {
  for (int row = 0; row < kRows; ++row)
    for (int column = 0; column < kColumns; ++column)
      if (const DeckPlace place{Row(row), column}; capOf(place).contains(point)) return place;
  return std::nullopt;
}

bool Deck::keyEvent(const QKeyEvent& event, bool down) {
  const auto place = deckPlaceOf(event);
  if (!place) return false;
  if (event.isAutoRepeat()) return true;
  const int at = slot(*place);
  if (!down) {
    if (m_down.contains(at)) m_session.release(m_down.take(at));
    update();
    return true;
  }
  if (const QString text = event.text();
      text.size() == 1 && text[0].isPrint() && !(event.modifiers() & Qt::ShiftModifier))
    m_letters[at] = text.toUpper();
  if (const Key* key = keyOn(*place)) {
    m_session.strike(key->id, event.modifiers() & Qt::ShiftModifier ? 1.0 : 0.8); // Shift accents
    m_down[at] = key->id;
    m_session.selectKey(key->id);
  }
  update();
  return true;
}

void Deck::letAllGo() {
  for (Id key : std::as_const(m_down)) m_session.release(key);
  m_down.clear();
  update();
}

void Deck::drawSound(QPainter& p, const QRectF& box, const Key& key, QColor colour) {
  const Source* source = findSource(m_session.project(), key.sound.source);
  if (!source || !source->sound) return;
  drawSmallWave(p, box, *source->sound, m_session.peaksOf(*source), stretchOf(*source, key), colour,
                2);
}

void Deck::drawCap(QPainter& p, DeckPlace place) {
  const auto& c = theme::colours();
  const QRectF box = capOf(place);
  const Key* key = keyOn(place);
  const QColor tone = theme::ofRow(place.row);
  const bool held = m_down.contains(slot(place)) || m_pointed == slot(place);
  const float level = key ? std::min(1.0f, m_session.levelOf(key->id) * 1.5f) : 0.0f;
  const bool selected = key && key->id == m_session.selection().key;
  p.setBrush(!key ? Qt::NoBrush : QBrush(held ? theme::mixed(tone, c.raised, 0.30) : c.raised));
  QColor rim = c.line;
  double width = 1;
  if (key && level > 0.02f) {
    rim = theme::mixed(tone, c.line, std::min(1.0, 0.3 + double(level)));
    width = 1.8;
  } else if (selected) {
    rim = tone;
    width = 1.8;
  }
  p.setPen(QPen(rim, width));
  p.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7);
  const QColor letterInk = key ? c.text : theme::mixed(c.quiet, c.panel, 0.55);
  const double letterWidth = px(16);
  theme::drawText(p, QRectF(box.left() + px(8), box.top(), letterWidth, box.height()),
                  Qt::AlignVCenter | Qt::AlignLeft, letterOf(place), theme::Type::Strong,
                  letterInk);
  if (!key) return;
  // Name and picture never meet: the picture gives way first.
  const double nameLeft = box.left() + px(8) + letterWidth,
               right = box.right() - (key->choke != 0 ? px(15) : px(8)), room = right - nameLeft;
  QString name = QString::fromStdString(nameOf(m_session.project(), *key));
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  // Slices, whose names are long, and all keys of a narrow deck have their name over their picture.
  const bool stacked = place.row == Row::Cuts || box.width() < px(84);
  if (stacked && key->name.empty() && metrics.horizontalAdvance(name) > room)
    name = name.section(QLatin1Char(' '), -1); // what it is rather than where it was
  const double picture = std::clamp(
      room - std::max(metrics.horizontalAdvance(name) + px(5), room * 0.45), 0.0, double(px(52)));
  QRectF nameBox(nameLeft, box.top(), room - picture - px(4), box.height());
  QRectF pictureBox(right - picture, box.top() + box.height() * 0.26, picture, box.height() * 0.48);
  if (stacked) {
    nameBox = QRectF(nameLeft, box.top() + px(2), room, box.height() * 0.55);
    pictureBox = QRectF(nameLeft, box.top() + box.height() * 0.56, room, box.height() * 0.32);
  }
  theme::drawText(p, nameBox, Qt::AlignVCenter | Qt::AlignLeft, name, theme::Type::Small, c.quiet);
  drawSound(p, pictureBox, *key, tone);
  if (isTreated(*key)) drawTreatedSign(p, {box.left() + px(12), box.bottom() - px(7)}, c.lilac);
  if (key->choke != 0)
    theme::drawText(p, QRectF(box.right() - px(14), box.top() + 1, px(11), px(13)),
                    Qt::AlignRight | Qt::AlignTop, QString(QChar('a' + key->choke - 1)),
                    theme::Type::Small, c.quiet);
}

void Deck::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), c.panel);
  p.fillRect(QRect(0, 0, width(), 1), c.line);
  static const std::array<QString, kRows> names{tr("Cuts"), tr("Air"), tr("Body"), tr("Floor")};
  const int pages = cutPages(m_session.project());
  for (int row = 0; row < kRows; ++row) {
    const QRectF first = capOf({Row(row), 0});
    QRectF label(px(14), first.top(), px(56), first.height());
    if (row == 0 && pages > 1) {
      theme::drawText(p, QRectF(label.left(), label.top(), label.width(), label.height() / 2),
                      Qt::AlignLeft | Qt::AlignBottom, names[0], theme::Type::Small,
                      theme::ofRow(Row::Cuts));
      theme::drawText(p,
                      QRectF(label.left(), label.center().y(), label.width(), label.height() / 2),
                      Qt::AlignLeft | Qt::AlignTop,
                      QStringLiteral("‹ %1/%2 ›").arg(m_session.selection().page + 1).arg(pages),
                      theme::Type::Small, c.quiet);
    } else {
      theme::drawText(p, label, Qt::AlignLeft | Qt::AlignVCenter, names[std::size_t(row)],
                      theme::Type::Small, theme::ofRow(Row(row)));
    }
    for (int column = 0; column < kColumns; ++column) drawCap(p, {Row(row), column});
  }
}

void Deck::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton) return;
  const QRectF first = capOf({Row::Cuts, 0});
  if (event->position().x() < first.left() && event->position().y() < first.bottom()) {
    const int pages = cutPages(m_session.project());
    const int step = event->position().x() < px(40) ? pages - 1 : 1;
    m_session.setPage((m_session.selection().page + step) % pages);
    return;
  }
  const auto place = placeAt(event->position());
  if (!place) return;
  const Key* key = keyOn(*place);
  if (!key) return;
  // Higher on the cap is louder.
  const QRectF box = capOf(*place);
  m_session.strike(
      key->id,
      std::clamp(1.05 - 0.7 * (event->position().y() - box.top()) / box.height(), 0.2, 1.0));
  m_pointed = slot(*place);
  m_down[m_pointed] = key->id;
  m_session.selectKey(key->id);
}

void Deck::mouseReleaseEvent(QMouseEvent*) {
  if (m_pointed >= 0 && m_down.contains(m_pointed)) m_session.release(m_down.take(m_pointed));
  m_pointed = -1;
  update();
}

void Deck::contextMenuEvent(QContextMenuEvent* event) {
  const auto place = placeAt(event->pos());
  if (!place) return;
  QMenu menu(this);
  const Id source = m_session.selection().source;
  if (const Source* s = findSource(m_session.project(), source))
    menu.addAction(tr("Put %1 here").arg(QString::fromStdString(s->name)), this, [this, place, s] {
      m_session.edit(tr("Put a sound on a key"),
                     withKeySound(m_session.project(), place->row, place->column,
                                  m_session.selection().page, {s->id, 0}, s->name));
    });
  if (const Key* key = keyOn(*place))
    menu.addAction(tr("Clear this key"), this, [this, id = key->id] {
      m_session.edit(tr("Clear a key"), withoutKey(m_session.project(), id));
    });
  if (!menu.isEmpty()) menu.exec(event->globalPos());
}

bool Deck::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    auto* help = static_cast<QHelpEvent*>(event);
    const auto place = placeAt(help->pos());
    const Key* key = place ? keyOn(*place) : nullptr;
    const Source* source = key ? findSource(m_session.project(), key->sound.source) : nullptr;
    if (source)
      QToolTip::showText(
          help->globalPos(),
          tr("%1 from %2. Press %3 to play, with Shift louder; right-click for more.")
              .arg(QString::fromStdString(nameOf(m_session.project(), *key)),
                   QString::fromStdString(source->name), letterOf(*place)),
          this);
    else if (place)
      QToolTip::showText(help->globalPos(), tr("Free. Right-click to put the chosen source here."),
                         this);
    else
      QToolTip::hideText();
    return true;
  }
  return QWidget::event(event);
}

} // namespace tuvvo
