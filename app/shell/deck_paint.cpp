// The deck as it is drawn; deck.cpp is how it is played.
#include "base/convert.h"
#include "session/peaks_cache.h"
#include "session/player.h"
#include "shell/deck.h"

#include "theme/theme.h"
#include "widgets/signs.h"
#include "widgets/small_wave.h"

#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

QString wordOf(HandKey key) {
  switch (key) {
  case HandKey::Softer:
    return Deck::tr("softer");
  case HandKey::Harder:
    return Deck::tr("harder");
  case HandKey::Spread:
    return Deck::tr("spread");
  case HandKey::Page:
    return Deck::tr("page");
  case HandKey::Roll:
    return Deck::tr("roll");
  case HandKey::Soft:
    return Deck::tr("soft");
  case HandKey::Erase:
    return Deck::tr("erase");
  case HandKey::Catch:
    break;
  }
  return Deck::tr("catch");
}

} // namespace

void Deck::drawSound(QPainter& p, const QRectF& box, const Key& key, QColor colour) {
  const Source* source = findSource(project(), key.sound.source);
  if (!source || !source->sound) return;
  drawSmallWave(p, box, *source->sound, m_peaks.peaksOf(*source), stretchOf(*source, key), colour,
                2);
}

void Deck::drawCap(QPainter& p, DeckPlace place) {
  const auto& c = theme::colours();
  const QRectF box = capOf(place);
  const Key* key = keyOn(place);
  const QColor tone = theme::ofRow(place.row);
  const bool held = m_down.contains(int(place.row) * kColumns + place.column);
  const float level = key ? std::min(1.0f, m_player.levelOf(key->id) * 1.5f) : 0.0f;
  const bool selected = key && key->id == selection().key;
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
  if (const auto spread = m_hand.settings().spread) { // one sound: what differs from key to key
    theme::drawText(p, box.adjusted(px(8) + letterWidth, 0, -px(6), 0),
                    Qt::AlignVCenter | Qt::AlignRight, spreadText(*spread, place),
                    theme::Type::Small, c.text);
    return;
  }
  const bool silent = !audible(project(), *key, m_anySolo);
  // Name and picture never meet: the picture gives way first.
  const double nameLeft = box.left() + px(8) + letterWidth,
               right = box.right() - (key->choke != 0 ? px(15) : px(8)), room = right - nameLeft;
  QString name = QString::fromStdString(nameOf(project(), *key));
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
  drawSound(p, pictureBox, *key, silent ? theme::mixed(c.quiet, c.panel, 0.4) : tone);
  if (silent) { // struck through: muted, or another is solo
    p.setPen(QPen(c.coral, 1.5));
    p.drawLine(QPointF(pictureBox.left(), pictureBox.bottom()),
               QPointF(pictureBox.right(), pictureBox.top()));
  }
  if (isTreated(*key)) drawTreatedSign(p, {box.left() + px(12), box.bottom() - px(7)}, c.lilac);
  if (key->choke != 0)
    theme::drawText(p, QRectF(box.right() - px(14), box.top() + 1, px(11), px(13)),
                    Qt::AlignRight | Qt::AlignTop, QString(QChar('a' + key->choke - 1)),
                    theme::Type::Small, c.quiet);
}

/// What a key of the spread does: "+7", "root", "1/8".
QString Deck::spreadText(SpreadBy by, DeckPlace place) const {
  const Key* key = keyOn(place);
  const HandHit hit = spreadHit(by, int(place.row), place.column, m_hand.settings().velocity,
                                project().key, key ? rootOf(project(), *key) : Hertz(0));
  switch (by) {
  case SpreadBy::Semitones:
  case SpreadBy::Scale: {
    const QString figure = QString::number(std::abs(hit.tune.value), 'f',
                                           hit.tune.value == std::round(hit.tune.value) ? 0 : 1);
    return hit.tune.value > 0   ? QStringLiteral("+%1 st").arg(figure)
           : hit.tune.value < 0 ? QStringLiteral("\u2212%1 st").arg(figure)
                                : tr("as it is");
  }
  case SpreadBy::Velocity:
    return tr("vel %1").arg(toNearest<int>(hit.velocity * 100));
  case SpreadBy::Start:
    return tr("from %1 %").arg(toNearest<int>(hit.start * 100));
  case SpreadBy::Length:
    return tr("%1 % long").arg(toNearest<int>(hit.length * 100));
  case SpreadBy::Brightness:
    break;
  }
  const double hz = 20'000 * std::exp2(hit.bright);
  return hz < 1000 ? tr("%1 Hz").arg(hz, 0, 'f', 0) : tr("%1 kHz").arg(hz / 1000, 0, 'f', 1);
}

void Deck::drawHandCap(QPainter& p, HandKey key) {
  const auto& c = theme::colours();
  const QRectF box = capOf(key);
  const auto& hand = m_hand.settings();
  const bool on = (key == HandKey::Roll && hand.roll) || (key == HandKey::Soft && hand.soft > 0) ||
                  (key == HandKey::Erase && hand.erase) || (key == HandKey::Spread && hand.spread);
  const QColor tone = key == HandKey::Erase ? c.coral : c.brass;
  p.setPen(QPen(on ? tone : c.line, on ? 1.8 : 1));
  p.setBrush(on ? theme::mixed(tone, c.panel, 0.25) : c.panel);
  p.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7);
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  double longest = 0; // all say their word or none does; the tip says the rest
  for (int i = 0; i < kHandKeys; ++i)
    longest = std::max(longest, metrics.horizontalAdvance(wordOf(HandKey(i))));
  if (longest > box.width() - 2) {
    theme::drawText(p, box, Qt::AlignCenter, letterOf(key), theme::Type::Strong,
                    on ? c.text : c.quiet);
    return;
  }
  theme::drawText(p, QRectF(box.left(), box.top() + px(2), box.width(), box.height() * 0.5),
                  Qt::AlignCenter, letterOf(key), theme::Type::Small, on ? c.text : c.quiet);
  theme::drawText(p, QRectF(box.left(), box.center().y() - px(2), box.width(), box.height() * 0.5),
                  Qt::AlignCenter, wordOf(key), theme::Type::Small, on ? c.text : c.quiet);
}

void Deck::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), c.panel);
  m_anySolo = anySolo(project());
  p.fillRect(QRect(0, 0, width(), 1), c.line);
  static const std::array<QString, kRowCount> names{tr("Cuts"), tr("Air"), tr("Body"), tr("Floor")};
  const int pages = cutPages(project());
  for (int row = 0; row < kRowCount; ++row) {
    const QRectF first = capOf({Row(row), 0});
    QRectF label(px(14), first.top(), px(56), first.height());
    if (row == 0 && pages > 1) {
      theme::drawText(p, QRectF(label.left(), label.top(), label.width(), label.height() / 2),
                      Qt::AlignLeft | Qt::AlignBottom, names[0], theme::Type::Small,
                      theme::ofRow(Row::Cuts));
      theme::drawText(p,
                      QRectF(label.left(), label.center().y(), label.width(), label.height() / 2),
                      Qt::AlignLeft | Qt::AlignTop,
                      QStringLiteral("‹ %1/%2 ›").arg(selection().page + 1).arg(pages),
                      theme::Type::Small, c.quiet);
    } else {
      theme::drawText(p, label, Qt::AlignLeft | Qt::AlignVCenter, names[std::size_t(row)],
                      theme::Type::Small, theme::ofRow(Row(row)));
    }
    for (int column = 0; column < kColumns; ++column) drawCap(p, {Row(row), column});
    const MuteSolo& role = project().roles[std::size_t(row)];
    if (role.muted || role.solo)
      theme::drawText(p, label, Qt::AlignLeft | Qt::AlignBottom,
                      role.muted ? tr("muted") : tr("solo"), theme::Type::Small,
                      role.muted ? c.coral : c.brass);
  }
  for (int i = 0; i < kHandKeys; ++i) drawHandCap(p, HandKey(i));
}

} // namespace tuvvo
