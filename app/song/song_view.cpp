#include "song/song_view.h"

#include "model/edits.h"
#include "song/timeline.h"
#include "theme/theme.h"
#include "widgets/combo.h"

#include <QFontMetricsF>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kUpright = 19; ///< a name that stands upright is so wide, with the card's edge
} // namespace

SongView::SongView(Panel& host, Transport& transport, SongMeter& meter, QWidget* parent)
    : PicturePanel(host, parent), m_transport(transport), m_loop(transport, Plays::Song),
      m_meter(meter) {
  setAccessibleName(tr("Sections"));
  setToolTip(tr("Click a section to choose it; click a part's line to let it rest there; "
                "double-click a card to play from it; drag over bars above the cards to have only "
                "those go round. Keys: left and right choose a section, up "
                "and down a part, Enter rests it."));
  setFocusPolicy(Qt::StrongFocus);
  for (auto signal : {&Transport::tick, &Transport::changed})
    connect(&transport, signal, this, [this] {
      if (const Id now = sounding(cards()); now != m_sounding) {
        m_sounding = now;
        drawAnew();
      }
      update(); // the playhead
    });
  connect(&meter, &SongMeter::measured, this, &SongView::drawAnew);
  connect(&transport, &Transport::loopChanged, this, [this] {
    setAccessibleDescription(m_loop.words());
    update();
  });
}

std::vector<Part> SongView::parts() const {
  std::vector<Part> out;
  for (const auto& part : project().parts) {
    // Only parts that some pattern plays have a line.
    bool used = false;
    for (const auto& pattern : project().patterns)
      if (const Lane* lane = findLane(*pattern, part.id)) used = used || !lane->hits.empty();
    if (used) out.push_back(part);
  }
  std::stable_sort(out.begin(), out.end(), [&](const Part& a, const Part& b) {
    return theme::placeOf(a.role) < theme::placeOf(b.role);
  });
  return out;
}

std::vector<SongView::Card> SongView::cards() const {
  std::vector<Card> out;
  const Timeline timeline = timelineOf(project());
  if (timeline.bars == 0) return out;
  const double left = px(92), scale = (width() - left - px(2)) / inBeats(timeline.length);
  for (const auto& placed : timeline.sections)
    if (const Section* section = findSection(project(), placed.section))
      out.push_back({*section,
                     QRectF(left + inBeats(placed.start) * scale, px(64),
                            inBeats(placed.length) * scale - px(4), height() - px(66)),
                     inBeats(placed.start), inBeats(placed.length)});
  return out;
}

QRectF SongView::lineOf(const Card& card, std::size_t index) const {
  const auto count = std::max<std::size_t>(1, parts().size());
  const double top = card.box.top() + px(46), room = card.box.bottom() - top - px(6),
               h = std::min<double>(room / double(count), px(34));
  return QRectF(card.box.left() + px(6), top + h * double(index), card.box.width() - px(12), h);
}

Id SongView::part() const {
  const auto all = parts();
  for (const auto& each : all)
    if (each.id == m_part) return m_part;
  return all.empty() ? 0 : all.front().id;
}

void SongView::stepPart(int steps) {
  const auto all = parts();
  for (std::size_t i = 0; i < all.size(); ++i)
    if (all[i].id == part()) {
      m_part = all[std::size_t(std::clamp<std::ptrdiff_t>(std::ptrdiff_t(i) + steps, 0,
                                                          std::ptrdiff_t(all.size()) - 1))]
                   .id;
      break;
    }
  drawAnew();
}

Id SongView::sounding(const std::vector<Card>& all) const {
  if (!m_transport.playing() || m_transport.plays() != Plays::Song) return 0;
  const double now = m_transport.positionBeats();
  for (const auto& card : all)
    if (now >= card.startBeat && now < card.startBeat + card.beats) return card.section.id;
  return 0;
}

void SongView::drawEnergy(QPainter& p, const std::vector<Card>& all) {
  const auto& c = theme::colours();
  const auto& bars = m_meter.measure().barLoudness;
  const double left = all.front().box.left(), right = all.back().box.right();
  theme::drawText(p, QRectF(px(2), px(18), px(84), px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("LUFS"), theme::Type::Small, c.quiet);
  if (bars.empty()) {
    theme::drawText(p, QRectF(left, px(18), right - left, px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("measuring…"), theme::Type::Small, c.quiet);
    return;
  }
  // −36 to −8 LUFS.
  const auto heightOf = [](double lufs) {
    const double share = std::isfinite(lufs) ? std::clamp((lufs + 36) / 28, 0.0, 1.0) : 0;
    return px(54) - share * px(42);
  };
  for (const int lufs : {-12, -20, -28}) {
    const double y = heightOf(lufs);
    p.fillRect(QRectF(left, y, right - left, 1), theme::mixed(c.line, c.ground, 0.6));
    theme::drawText(p, QRectF(px(40), y - px(7), px(44), px(14)), Qt::AlignRight | Qt::AlignVCenter,
                    QStringLiteral("−%1").arg(-lufs), theme::Type::Small, c.quiet);
  }
  QPolygonF line;
  const double w = (right - left) / double(bars.size());
  for (std::size_t i = 0; i < bars.size(); ++i) {
    const double y = heightOf(double(bars[i]));
    line << QPointF(left + w * double(i), y) << QPointF(left + w * double(i + 1), y);
  }
  QPolygonF area = line;
  area << QPointF(right, px(56)) << QPointF(left, px(56));
  p.setPen(Qt::NoPen);
  p.setBrush(theme::mixed(c.slate, c.ground, 0.25));
  p.drawPolygon(area);
  p.setPen(QPen(c.slate, 1.5));
  p.setBrush(Qt::NoBrush);
  p.drawPolyline(line);
}

std::optional<theme::Type> SongView::nameAcross(const Card& card) {
  const QString name = QString::fromStdString(card.section.name);
  for (const auto type : {theme::Type::Strong, theme::Type::Small})
    if (QFontMetricsF(theme::font(type)).horizontalAdvance(name) <= card.box.width() - px(14))
      return type;
  return std::nullopt;
}

/// Across the card where it fits, else along its left edge.
void SongView::drawName(QPainter& p, const Card& card, const Pattern* pattern) {
  const auto& c = theme::colours();
  const QString name = QString::fromStdString(card.section.name);
  const QString bars = counted(card.section.bars, tr("bar"), tr("bars"));
  const QRectF head(card.box.left() + px(9), card.box.top() + px(6), card.box.width() - px(14),
                    px(18));
  if (const auto type = nameAcross(card)) {
    theme::drawText(p, head, Qt::AlignLeft | Qt::AlignVCenter, name, *type, c.text);
    // The longest that fits.
    QStringList says{bars, QString::number(card.section.bars)};
    if (pattern && pattern->name != card.section.name)
      says.prepend(bars + QStringLiteral(" · ") + QString::fromStdString(pattern->name));
    const QFontMetricsF metrics(theme::font(theme::Type::Small));
    while (says.size() > 1 && metrics.horizontalAdvance(says.front()) > head.width())
      says.removeFirst();
    theme::drawText(p, head.translated(0, px(17)), Qt::AlignLeft | Qt::AlignVCenter, says.front(),
                    theme::Type::Small, c.quiet);
    return;
  }
  theme::drawText(p, head, Qt::AlignLeft | Qt::AlignVCenter, QString::number(card.section.bars),
                  theme::Type::Small, c.quiet);
  p.save();
  p.translate(card.box.left() + px(kUpright / 2.0 + 1), card.box.bottom() - px(8));
  p.rotate(-90);
  theme::drawText(p, QRectF(0, -px(10), card.box.height() - px(40), px(20)),
                  Qt::AlignLeft | Qt::AlignVCenter, name, theme::Type::Strong, c.text);
  p.restore();
}

/// As many as there is room for; the one that keys rest or let play always.
void SongView::drawPartNames(QPainter& p, const Card& first) {
  const auto& c = theme::colours();
  const auto lines = parts();
  const double high = QFontMetricsF(theme::font(theme::Type::Small)).height();
  const auto draw = [&](std::size_t i, QColor ink) {
    const QRectF line = lineOf(first, i);
    theme::drawText(p, QRectF(px(2), line.center().y() - high / 2, px(84), high),
                    Qt::AlignLeft | Qt::AlignVCenter, QString::fromStdString(lines[i].name),
                    theme::Type::Small, ink);
  };
  double here = -1e9;
  for (std::size_t i = 0; i < lines.size(); ++i)
    if (hasFocus() && lines[i].id == part()) {
      draw(i, c.brass);
      here = lineOf(first, i).center().y();
    }
  double last = -1e9;
  for (std::size_t i = 0; i < lines.size(); ++i) {
    const double y = lineOf(first, i).center().y();
    if (y - last < high * 0.95 || std::abs(y - here) < high * 0.95) continue;
    draw(i, c.quiet);
    last = y;
  }
}

void SongView::draw(QPainter& p) {
  const auto& c = theme::colours();
  p.fillRect(rect(), c.ground);
  const auto all = cards();
  if (all.empty()) {
    theme::drawText(p, rect(), Qt::AlignCenter,
                    tr("No sections yet. Add one above, and choose which pattern it plays."),
                    theme::Type::Body, c.quiet);
    return;
  }
  drawEnergy(p, all);
  const auto lines = parts();
  drawPartNames(p, all.front());
  for (const auto& card : all) {
    const bool chosen = card.section.id == selection().section;
    const bool sounds = card.section.id == m_sounding;
    const QColor ground = chosen ? c.raised : c.panel;
    p.setPen(QPen(chosen ? c.brass : c.line, chosen ? 1.8 : 1));
    p.setBrush(sounds ? theme::mixed(c.brass, ground, 0.1) : ground);
    p.drawRoundedRect(card.box.adjusted(1, 1, -1, -1), 8, 8);
    const PatternPtr pattern = findPattern(project(), card.section.pattern);
    const double beside = nameAcross(card) ? 0 : px(kUpright) - px(6); // lines lie beside the name
    for (std::size_t i = 0; i < lines.size(); ++i) {
      const QRectF line = lineOf(card, i).adjusted(beside, 0, beside > 0 ? px(3) : 0, 0);
      const Lane* lane = pattern ? findLane(*pattern, lines[i].id) : nullptr;
      const bool plays = lane && !lane->hits.empty();
      const bool rests = std::find(card.section.mutedParts.begin(), card.section.mutedParts.end(),
                                   lines[i].id) != card.section.mutedParts.end();
      if (hasFocus() && chosen && lines[i].id == part()) {
        p.setPen(QPen(c.brass, 1));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(line.adjusted(-3, 0, 3, 0), 3, 3);
      }
      if (!plays) continue;
      const double y = line.center().y(), thick = std::min(line.height() * 0.42, double(px(10)));
      p.setPen(rests ? QPen(theme::ofRow(lines[i].role), 1, Qt::DotLine) : QPen(Qt::NoPen));
      p.setBrush(rests ? QBrush(Qt::NoBrush)
                       : QBrush(theme::markOf(theme::ofRow(lines[i].role), ground, 0.7)));
      if (rests)
        p.drawLine(QPointF(line.left(), y), QPointF(line.right(), y));
      else
        p.drawRoundedRect(QRectF(line.left(), y - thick / 2, line.width(), thick), thick / 2,
                          thick / 2);
    }
    drawName(p, card, pattern.get());
  }
}

void SongView::drawMoving(QPainter& p) {
  const double now = m_transport.positionBeats();
  const auto all = cards();
  if (m_transport.plays() != Plays::Song || all.empty()) return;
  drawLoop(p, all);
  if (now < 0) return;
  p.fillRect(QRectF(xOf(now, all), px(8), 1.5, height() - px(10)), theme::colours().brass);
}

double SongView::xOf(double beat, const std::vector<Card>& all) const {
  const double scale = (all.back().box.right() + px(4) - all.front().box.left()) /
                       (all.back().startBeat + all.back().beats);
  return all.front().box.left() + beat * scale;
}

double SongView::beatAt(double x, const std::vector<Card>& all) const {
  return (x - xOf(0, all)) / (xOf(1, all) - xOf(0, all));
}

/// What goes round, as a bracket over its bars.
void SongView::drawLoop(QPainter& p, const std::vector<Card>& all) {
  const auto loop = m_loop.loop();
  if (!loop) return;
  const double from = xOf(inBeats(loop->from), all), until = xOf(inBeats(loop->until), all) - px(4);
  p.setPen(QPen(theme::colours().brass, 2.5));
  p.drawPolyline(QPolygonF({{from, double(px(60))},
                            {from, double(px(4))},
                            {until, double(px(4))},
                            {until, double(px(60))}}));
}

void SongView::mouseMoveEvent(QMouseEvent* event) {
  if (m_loop.dragging()) m_loop.move(beatAt(event->position().x(), cards()));
}

void SongView::mouseReleaseEvent(QMouseEvent*) { m_loop.release(); }

void SongView::mousePressEvent(QMouseEvent* event) {
  if (const auto all = cards(); !all.empty() && event->position().y() < all.front().box.top()) {
    const double beat = beatAt(event->position().x(), all);
    if (beat >= 0 && beat < all.back().startBeat + all.back().beats) m_loop.press(beat);
    return;
  }
  const auto lines = parts();
  for (const auto& card : cards()) {
    if (!card.box.contains(event->position())) continue;
    selectSection(card.section.id);
    for (std::size_t i = 0; i < lines.size(); ++i)
      if (lineOf(card, i).contains(event->position())) {
        m_part = lines[i].id;
        edit(tr("Rest or play a part"),
             withSectionChanged(project(), card.section.id, [&](Section& s) {
               if (std::erase(s.mutedParts, lines[i].id) == 0) s.mutedParts.push_back(lines[i].id);
             }));
        return;
      }
    return;
  }
}

void SongView::mouseDoubleClickEvent(QMouseEvent* event) {
  for (const auto& card : cards())
    if (card.box.contains(event->position()) && event->position().y() < card.box.top() + px(44)) {
      m_transport.setPlays(Plays::Song);
      m_transport.play(card.startBeat);
    }
}

void SongView::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Up)
    stepPart(-1);
  else if (event->key() == Qt::Key_Down)
    stepPart(1);
  else if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
    const Id chosen = part();
    edit(tr("Rest or play a part"),
         withSectionChanged(project(), selection().section, [&](Section& s) {
           if (std::erase(s.mutedParts, chosen) == 0) s.mutedParts.push_back(chosen);
         }));
  } else
    QWidget::keyPressEvent(event);
}

} // namespace tuvvo
