// The deck as it is drawn; deck.cpp is how it is played.
#include "base/convert.h"
#include "session/music_text.h"
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

QString wordOf(PerformanceKey key) {
  switch (key) {
  case PerformanceKey::Softer:
    return Deck::tr("softer");
  case PerformanceKey::Harder:
    return Deck::tr("harder");
  case PerformanceKey::Spread:
    return Deck::tr("spread");
  case PerformanceKey::Page:
    return Deck::tr("page");
  case PerformanceKey::Roll:
    return Deck::tr("roll");
  case PerformanceKey::Soft:
    return Deck::tr("soft");
  case PerformanceKey::Erase:
    return Deck::tr("erase");
  case PerformanceKey::Catch:
    break;
  }
  return Deck::tr("catch");
}

/// Where a cap's letter ends and its name begins.
double nameLeftOf(const QRectF& box) { return box.left() + px(8) + px(16); }

void paintSound(QPainter& p, const QRectF& box, const CapLook& look) {
  const auto& c = theme::colours();
  // Name and picture never meet: the picture gives way first.
  const double nameLeft = nameLeftOf(box), right = box.right() - (look.choke ? px(15) : px(8)),
               room = right - nameLeft;
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  const double picture =
      std::clamp(room - std::max(metrics.horizontalAdvance(look.name) + px(5), room * 0.45), 0.0,
                 double(px(52)));
  QRectF nameBox(nameLeft, box.top(), room - picture - px(4), box.height());
  QRectF pictureBox(right - picture, box.top() + box.height() * 0.26, picture, box.height() * 0.48);
  if (look.stacked) {
    nameBox = QRectF(nameLeft, box.top() + px(2), room, box.height() * 0.55);
    pictureBox = QRectF(nameLeft, box.top() + box.height() * 0.56, room, box.height() * 0.32);
  }
  theme::drawText(p, nameBox, Qt::AlignVCenter | Qt::AlignLeft, look.name, theme::Type::Small,
                  c.quiet);
  if (look.sound)
    drawSmallWave(p, pictureBox, *look.sound, look.peaks, {look.start, look.end},
                  look.silent ? theme::markOf(c.quiet, c.raised, 0) : look.tone, 2);
  if (look.silent) { // struck through: muted, or another is solo
    p.setPen(QPen(c.coral, 1.5));
    p.drawLine(QPointF(pictureBox.left(), pictureBox.bottom()),
               QPointF(pictureBox.right(), pictureBox.top()));
  }
}

void paintCap(QPainter& p, const QRectF& box, const CapLook& look) {
  const auto& c = theme::colours();
  p.setBrush(look.fill.isValid() ? QBrush(look.fill) : Qt::NoBrush);
  p.setPen(QPen(look.rim, look.rimWidth));
  p.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7);
  theme::drawText(p, QRectF(box.left() + px(8), box.top(), px(16), box.height()),
                  Qt::AlignVCenter | Qt::AlignLeft, look.letter, theme::Type::Strong, look.ink);
  if (!look.fill.isValid()) return;
  if (!look.spread.isEmpty()) {
    theme::drawText(p, box.adjusted(nameLeftOf(box) - box.left(), 0, -px(6), 0),
                    Qt::AlignVCenter | Qt::AlignRight, look.spread, theme::Type::Small, c.text);
    return;
  }
  paintSound(p, box, look);
  if (look.treated) drawTreatedSign(p, {box.left() + px(12), box.bottom() - px(7)}, c.lilac);
  if (look.choke != 0)
    theme::drawText(p, QRectF(box.right() - px(14), box.top() + 1, px(11), px(13)),
                    Qt::AlignRight | Qt::AlignTop, QString(QChar('a' + look.choke - 1)),
                    theme::Type::Small, c.quiet);
}

void paintPerformanceCap(QPainter& p, const QRectF& box, const PerformanceCapLook& look) {
  p.setPen(QPen(look.rim, look.rimWidth));
  p.setBrush(look.fill);
  p.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7);
  if (look.word.isEmpty()) {
    theme::drawText(p, box, Qt::AlignCenter, look.letter, theme::Type::Strong, look.ink);
    return;
  }
  theme::drawText(p, QRectF(box.left(), box.top() + px(2), box.width(), box.height() * 0.5),
                  Qt::AlignCenter, look.letter, theme::Type::Small, look.ink);
  theme::drawText(p, QRectF(box.left(), box.center().y() - px(2), box.width(), box.height() * 0.5),
                  Qt::AlignCenter, look.word, theme::Type::Small, look.ink);
}

} // namespace

CapLook Deck::lookOf(DeckPlace place) const {
  const auto& c = theme::colours();
  const Key* key = keyOn(place);
  CapLook look;
  look.letter = letterOf(place);
  look.rim = c.line;
  look.tone = theme::ofRow(place.row);
  look.ink = key ? c.text : c.quiet;
  if (!key) return look;
  const bool held = m_down.contains(int(place.row) * kColumns + place.column);
  look.fill = held ? theme::mixed(look.tone, c.raised, 0.30) : c.raised;
  if (const float level = std::min(1.0f, m_player.levelOf(key->id) * 1.5f); level > 0.02f) {
    look.rim = theme::mixed(look.tone, c.line, std::min(1.0, 0.3 + double(level)));
    look.rimWidth = 1.8;
  } else if (key->id == selection().key) {
    look.rim = look.tone;
    look.rimWidth = 1.8;
  }
  if (const auto spread = m_hand.settings().spread) { // one sound: what differs from key to key
    look.spread = spreadText(*spread, place);
    return look;
  }
  look.silent = !audible(project(), *key, m_anySolo);
  look.treated = isTreated(*key);
  look.choke = key->choke;
  const QRectF box = capOf(place);
  // Slices, whose names are long, and all keys of a narrow deck have their name over their picture.
  look.stacked = place.row == Row::Cuts || box.width() < px(84);
  nameCap(look, box, *key);
  if (const Source* source = findSource(project(), key->sound.source); source && source->sound) {
    const Stretch stretch = stretchOf(*source, *key);
    look.sound = source->sound;
    look.peaks = m_peaks.peaksOf(*source);
    look.start = stretch.start;
    look.end = stretch.end;
  }
  return look;
}

/// Where there is no room for both, says what it is, or where it was where others are the same.
void Deck::nameCap(CapLook& look, const QRectF& box, const Key& key) const {
  look.name = nameText(project(), key);
  if (!look.stacked || !key.name.empty()) return;
  const double room = box.right() - (look.choke ? px(15) : px(8)) - nameLeftOf(box);
  if (QFontMetricsF(theme::font(theme::Type::Small)).horizontalAdvance(look.name) > room) {
    const int word = sameBeside(key) ? 0 : -1;
    look.name = look.name.section(QLatin1Char(' '), word, word);
  }
}

/// Whether another key of its row and page has the same last word.
bool Deck::sameBeside(const Key& key) const {
  const QString what = nameText(project(), key).section(QLatin1Char(' '), -1);
  return std::any_of(project().keys.begin(), project().keys.end(), [&](const Key& other) {
    return other.id != key.id && other.row == key.row && other.page == key.page &&
           nameText(project(), other).section(QLatin1Char(' '), -1) == what;
  });
}

/// What a key of the spread does: "+7", "root", "1/8".
QString Deck::spreadText(SpreadBy by, DeckPlace place) const {
  const Key* key = keyOn(place);
  const PerformanceHit hit = spreadHit(by, int(place.row), place.column, m_hand.settings().velocity,
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

PerformanceCapLook Deck::lookOf(PerformanceKey key, bool words) const {
  const auto& c = theme::colours();
  const auto& hand = m_hand.settings();
  const bool on = (key == PerformanceKey::Roll && hand.roll) ||
                  (key == PerformanceKey::Soft && hand.soft > 0) ||
                  (key == PerformanceKey::Erase && hand.erase) ||
                  (key == PerformanceKey::Spread && hand.spread);
  const QColor tone = key == PerformanceKey::Erase ? c.coral : c.brass;
  PerformanceCapLook look;
  look.letter = letterOf(key);
  if (words) look.word = wordOf(key);
  look.rim = on ? tone : c.line;
  look.rimWidth = on ? 1.8 : 1;
  look.fill = on ? theme::mixed(tone, c.panel, 0.25) : c.panel;
  look.ink = on ? c.text : c.quiet;
  return look;
}

void Deck::drawRowLabel(QPainter& p, Row row) {
  const auto& c = theme::colours();
  const int pages = cutPages(project());
  const QRectF first = capOf({row, 0});
  const QRectF label(px(14), first.top(), px(56), first.height());
  if (row == Row::Cuts && pages > 1) {
    theme::drawText(p, QRectF(label.left(), label.top(), label.width(), label.height() / 2),
                    Qt::AlignLeft | Qt::AlignBottom, rowText(row), theme::Type::Small,
                    theme::ofRow(row));
    theme::drawText(p, QRectF(label.left(), label.center().y(), label.width(), label.height() / 2),
                    Qt::AlignLeft | Qt::AlignTop,
                    QStringLiteral("‹ %1/%2 ›").arg(selection().page + 1).arg(pages),
                    theme::Type::Small, c.quiet);
  } else {
    theme::drawText(p, label, Qt::AlignLeft | Qt::AlignVCenter, rowText(row), theme::Type::Small,
                    theme::ofRow(row));
  }
  if (const MuteSolo& role = project().roles[std::size_t(row)]; role.muted || role.solo)
    theme::drawText(p, label, Qt::AlignLeft | Qt::AlignBottom,
                    role.muted ? tr("muted") : tr("solo"), theme::Type::Small,
                    role.muted ? c.coral : c.brass);
}

void Deck::drawPerformanceCaps(QPainter& p) {
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  double longest = 0; // all say their word or none does; the tip says the rest
  for (int i = 0; i < kPerformanceKeys; ++i)
    longest = std::max(longest, metrics.horizontalAdvance(wordOf(PerformanceKey(i))));
  const bool words = longest <= capOf(PerformanceKey::Softer).width() - 2;
  for (int i = 0; i < 2 * m_rows; ++i) {
    const QRectF box = capOf(PerformanceKey(i));
    const PerformanceCapLook look = lookOf(PerformanceKey(i), words);
    m_performanceCaps[std::size_t(i)].draw(
        p, box, theme::colours().panel, look,
        [&](QPainter& cap) { paintPerformanceCap(cap, box, look); });
  }
}

void Deck::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.fillRect(rect(), c.panel);
  m_anySolo = anySolo(project());
  p.fillRect(QRect(0, 0, width(), 1), c.line);
  for (int row = 0; row < m_rows; ++row) {
    drawRowLabel(p, Row(row));
    for (int column = 0; column < kColumns; ++column) {
      const QRectF box = capOf({Row(row), column});
      const CapLook look = lookOf({Row(row), column});
      m_caps[std::size_t(row * kColumns + column)].draw(
          p, box, c.panel, look, [&](QPainter& cap) { paintCap(cap, box, look); });
    }
  }
  drawPerformanceCaps(p);
}

} // namespace tuvvo
