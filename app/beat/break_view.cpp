#include "beat/break_view.h"

#include "base/convert.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/signs.h"

#include <QMouseEvent>
#include <QPainter>
#include <cmath>
#include <map>

namespace tuvvo {

using theme::px;

namespace {

constexpr std::array kRowsDown{HitClass::Hat, HitClass::Snare, HitClass::Kick, HitClass::Other};
constexpr int kRowOfItsOwn = 3; ///< hits that the rest of what has no class needs for a row
constexpr double kHeardS = 0.5; ///< of a hit that is chosen

QString nameOfRow(HitClass hit) {
  switch (hit) {
  case HitClass::Kick:
    return BreakView::tr("kick");
  case HitClass::Snare:
    return BreakView::tr("snare");
  case HitClass::Hat:
    return BreakView::tr("hat");
  default:
    return BreakView::tr("other");
  }
}

Row roleOf(HitClass hit) {
  return hit == HitClass::Kick ? Row::Floor : hit == HitClass::Hat ? Row::Air : Row::Body;
}

bool sameHit(const ReadHit& hit, Seconds at, HitClass called) {
  return hit.hit == called && std::abs((hit.at - at).value) < kSameHit.value;
}

} // namespace

BreakView::BreakView(Panel& host, Auditions& auditions, QWidget* parent)
    : PicturePanel(host, parent), m_auditions(auditions) {
  setAccessibleName(tr("What the break plays"));
  setToolTip(
      tr("A hollow hit with a question mark is not sure. Click a hit to hear it, drag it to "
         "another row to say what it is. Keys: left and right choose, up and down move it to "
         "another row, Enter says that it is right."));
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(px(92));
  setReading(0, {});
}

QSize BreakView::sizeHint() const { return {600, px(112)}; }

void BreakView::setReading(Id source, std::optional<BreakReading> reading) {
  m_source = source;
  m_reading = std::move(reading);
  m_rows.clear();
  for (HitClass hit : kRowsDown) m_rows.push_back({hit});
  std::map<int, int> groups;
  int most = 0, others = 0;
  m_commonest = -1;
  if (m_reading)
    for (const auto& hit : m_reading->hits)
      if (hit.hit == HitClass::Other) {
        ++others;
        if (const int count = ++groups[hit.group]; count > most) {
          most = count;
          m_commonest = hit.group;
        }
      }
  if (others - most >= kRowOfItsOwn) m_rows.push_back({HitClass::Other, true});
  drawAnew();
}

const ReadHit* BreakView::chosen() const {
  if (!m_reading) return nullptr;
  for (const auto& hit : m_reading->hits)
    if (sameHit(hit, m_at, m_class)) return &hit;
  return nullptr;
}

QRectF BreakView::rowBox(std::size_t row) const {
  const double each = height() / double(m_rows.size());
  return {0, double(row) * each, double(width()), each - 2};
}

QRectF BreakView::rowOf(HitClass hit) const {
  for (std::size_t i = 0; i < m_rows.size(); ++i)
    if (m_rows[i].hit == hit) return rowBox(i);
  return {};
}

std::size_t BreakView::rowIndex(const ReadHit& hit) const {
  const bool rest =
      hit.hit == HitClass::Other && hit.group != m_commonest && m_rows.size() > kRowsDown.size();
  for (std::size_t i = 0; i < m_rows.size(); ++i)
    if (m_rows[i].hit == hit.hit && m_rows[i].rest == rest) return i;
  return 0;
}

std::size_t BreakView::rowAt(double y) const {
  const double each = height() / double(m_rows.size());
  return std::size_t(std::clamp(int(y / each), 0, int(m_rows.size()) - 1));
}

double BreakView::xOf(double beat) const {
  const double left = px(72), right = width() - px(12);
  return left + (right - left) * beat / std::max(1.0, m_reading ? m_reading->beats : 4);
}

QPointF BreakView::placeOf(const ReadHit& hit) const {
  const QRectF row = rowBox(rowIndex(hit));
  return {xOf(hit.beat), row.bottom() - px(4) - (row.height() - px(11)) * hit.velocity};
}

void BreakView::playHit(const ReadHit& hit) {
  const Source* source = findSource(project(), m_source);
  if (!source || !source->sound) return;
  const Hertz rate = source->sound->rate();
  const std::int64_t frames = source->sound->frames().value;
  const auto from = std::clamp<std::int64_t>(toFrames(hit.at, rate).value, 0, frames),
             count = std::min(frames - from, toFrames(Seconds(kHeardS), rate).value);
  if (count <= 0) return;
  Channels channels;
  for (int c = 0; c < source->sound->channels(); ++c) {
    const auto part = source->sound->channel(c).subspan(std::size_t(from), std::size_t(count));
    channels.emplace_back(part.begin(), part.end());
  }
  auto alone = std::make_shared<Source>();
  alone->name = source->name;
  alone->sound = std::make_shared<const Sound>(std::move(channels), rate);
  alone->hash = source->hash;
  m_auditions.playAsItIs(alone);
}

void BreakView::choose(std::size_t index, bool hears) {
  const ReadHit& hit = m_reading->hits[index];
  m_at = hit.at;
  m_class = hit.hit;
  if (hears) playHit(hit);
  drawAnew();
  emit chosenChanged();
}

void BreakView::chooseNext(int steps) {
  if (!m_reading || m_reading->hits.empty()) return;
  const auto& hits = m_reading->hits;
  std::ptrdiff_t at = steps > 0 ? -1 : std::ptrdiff_t(hits.size());
  for (std::size_t i = 0; i < hits.size(); ++i)
    if (sameHit(hits[i], m_at, m_class)) at = std::ptrdiff_t(i);
  choose(std::size_t(std::clamp<std::ptrdiff_t>(at + steps, 0, std::ptrdiff_t(hits.size()) - 1)),
         true);
}

void BreakView::chooseUnsure() {
  if (!m_reading) return;
  const auto& hits = m_reading->hits;
  std::size_t from = 0;
  for (std::size_t i = 0; i < hits.size(); ++i)
    if (sameHit(hits[i], m_at, m_class)) from = i + 1;
  for (std::size_t n = 0; n < hits.size(); ++n)
    if (const std::size_t at = (from + n) % hits.size(); !hits[at].sure) return choose(at, true);
}

void BreakView::moveChosen(HitClass to) {
  const ReadHit* hit = chosen();
  const Source* source = findSource(project(), m_source);
  if (!hit || !source) return;
  const Seconds at = hit->at;
  const HitClass from = hit->hit;
  m_class = to;
  edit(from == to ? tr("A hit is a %1").arg(nameOfRow(to))
                  : tr("A %1 is a %2").arg(nameOfRow(from), nameOfRow(to)),
       withHitMoved(project(), m_source, at, from, to, false));
  const Source* after = findSource(project(), m_source);
  emit moved(at, from, to, from == to || !after ? 0 : alikeOf(*source, at, from));
}

void BreakView::mousePressEvent(QMouseEvent* event) {
  if (!m_reading) return;
  double nearest = px(9);
  std::optional<std::size_t> found;
  for (std::size_t i = 0; i < m_reading->hits.size(); ++i) {
    const ReadHit& hit = m_reading->hits[i];
    if (rowAt(event->position().y()) != rowIndex(hit)) continue;
    if (const double away = std::abs(xOf(hit.beat) - event->position().x()); away < nearest) {
      nearest = away;
      found = i;
    }
  }
  if (!found) return;
  choose(*found, true);
  m_dragging = true;
  m_dragY = event->position().y();
}

void BreakView::mouseMoveEvent(QMouseEvent* event) {
  if (!m_dragging) return;
  m_dragY = event->position().y();
  drawAnew();
}

void BreakView::mouseReleaseEvent(QMouseEvent* event) {
  if (!std::exchange(m_dragging, false)) return;
  const HitClass to = m_rows[rowAt(event->position().y())].hit;
  if (to != m_class) moveChosen(to);
  drawAnew();
}

void BreakView::keyPressEvent(QKeyEvent* event) {
  const auto row = [&](int down) {
    const auto at = std::find(kRowsDown.begin(), kRowsDown.end(), m_class) - kRowsDown.begin();
    const auto next = at + down;
    if (next >= 0 && next < std::ptrdiff_t(kRowsDown.size()))
      moveChosen(kRowsDown[std::size_t(next)]);
  };
  switch (event->key()) {
  case Qt::Key_Left:
    return chooseNext(-1);
  case Qt::Key_Right:
    return chooseNext(1);
  case Qt::Key_Up:
    return row(-1);
  case Qt::Key_Down:
    return row(1);
  case Qt::Key_Return:
  case Qt::Key_Enter:
    return moveChosen(m_class);
  default:
    QWidget::keyPressEvent(event);
  }
}

void BreakView::draw(QPainter& p) {
  const auto& c = theme::colours();
  for (std::size_t i = 0; i < m_rows.size(); ++i) {
    const HitClass hit = m_rows[i].hit;
    const QRectF row = rowBox(i);
    const bool target = m_dragging && rowAt(m_dragY) == i;
    p.setPen(Qt::NoPen);
    p.setBrush(target ? c.raised : c.panel);
    p.drawRoundedRect(row, 4, 4);
    drawHitSign(p, hit, {double(px(14)), row.center().y()}, px(4), theme::ofRow(roleOf(hit)));
    theme::drawText(p, row.adjusted(px(26), 0, 0, 0), Qt::AlignLeft | Qt::AlignVCenter,
                    m_rows[i].rest ? tr("others") : nameOfRow(hit), theme::Type::Small, c.text);
  }
  if (!m_reading) return;
  const Source* source = findSource(project(), m_source);
  const auto grid = source ? gridOf(*source) : std::nullopt;
  const int meter = grid ? std::max(1, grid->meter) : 4;
  const double each = xOf(1) - xOf(0);
  for (int beat = 0; beat <= toWhole<int>(m_reading->beats); ++beat)
    if (const bool bar = beat % meter == 0; bar || each > px(6))
      p.fillRect(QRectF(xOf(beat), 0, 1, height()),
                 theme::mixed(c.line, c.panel, bar ? 0.95 : 0.4));
  const ReadHit* now = chosen();
  for (const auto& hit : m_reading->hits) {
    const bool here = now == &hit;
    QPointF at = placeOf(hit);
    const double foot = rowBox(rowIndex(hit)).bottom() - px(3);
    if (here && m_dragging) at.setY(m_dragY);
    const QColor tone = here ? c.text : theme::ofRow(roleOf(hit.hit));
    p.setPen(QPen(hit.sure ? tone : theme::markOf(tone, c.panel, 0), here ? 2.2 : 1.4,
                  hit.sure ? Qt::SolidLine : Qt::DotLine));
    if (!m_dragging || !here) p.drawLine(QPointF(at.x(), foot), at);
    if (hit.sure) {
      drawHitSign(p, hit.hit, at, px(3.4), tone);
    } else {
      p.setPen(QPen(tone, 1.4));
      p.setBrush(c.panel);
      p.drawEllipse(at, px(3.2), px(3.2));
      if (each > px(20))
        theme::drawText(p, QRectF(at.x() + px(4), at.y() - px(7), px(10), px(14)),
                        Qt::AlignLeft | Qt::AlignVCenter, QStringLiteral("?"), theme::Type::Small,
                        tone);
    }
    if (here) {
      p.setPen(QPen(c.brass, 1.5));
      p.setBrush(Qt::NoBrush);
      p.drawEllipse(at, px(6.5), px(6.5));
    }
  }
  if (hasFocus()) {
    p.setPen(QPen(c.brass, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4);
  }
}

} // namespace tuvvo
