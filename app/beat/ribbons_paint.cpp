// How ribbons look.
#include "base/convert.h"
#include "beat/ribbons_view.h"
#include "theme/theme.h"
#include "widgets/signs.h"

#include <QPainter>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

constexpr double kLitS = 0.35; ///< how long a hit stays lit

double beatsOf(double ticks) { return ticks / double(kTicksPerBeat); }

/// A lane's feel in a few words.
QString feelOf(const Feel& feel, const Project& project) {
  QStringList words;
  if (const Groove* groove = findGroove(project, feel.groove))
    words << QString::fromStdString(groove->name);
  if (feel.swing8 != 50) words << RibbonsView::tr("swing 8ths %1").arg(feel.swing8, 0, 'f', 0);
  if (feel.swing16 != 50) words << RibbonsView::tr("swing %1").arg(feel.swing16, 0, 'f', 0);
  const double microTiming =
      feel.microTiming.value + inBeats(feel.lag) * 60'000 / std::max(1.0, project.tempo.value);
  if (std::abs(microTiming) >= 0.5)
    words << (microTiming > 0 ? RibbonsView::tr("%1 ms late") : RibbonsView::tr("%1 ms early"))
                 .arg(std::abs(microTiming), 0, 'f', 0);
  if (feel.humanise.value > 0)
    words << RibbonsView::tr("humanise %1").arg(feel.humanise.value, 0, 'f', 0);
  return words.isEmpty() ? RibbonsView::tr("straight") : words.join(QStringLiteral(" · "));
}

} // namespace

void RibbonsView::drawHead(QPainter& p, const Ribbon& ribbon, const Lane* lane) {
  const auto& c = theme::colours();
  const QColor tone = theme::ofRow(ribbon.part.role);
  const bool low = ribbon.box.height() < px(40), here = ribbon.part.id == currentPart();
  p.setPen(Qt::NoPen);
  p.setBrush(here ? theme::mixed(c.raised, c.panel, 0.6) : c.panel);
  p.drawRoundedRect(ribbon.box, 5, 5);
  p.fillRect(QRectF(ribbon.box.left(), ribbon.box.top() + 3, 3, ribbon.box.height() - 6), tone);
  const bool silent = ribbon.part.muted;
  const QRectF name(ribbon.box.left() + px(12), ribbon.box.top() + (low ? 0 : px(5)), px(104),
                    low ? ribbon.box.height() : px(18));
  theme::drawText(p, name, Qt::AlignLeft | Qt::AlignVCenter,
                  QString::fromStdString(ribbon.part.name), theme::Type::Strong,
                  silent ? c.quiet : c.text);
  if (low) return;
  QString words = feelOf(lane ? lane->feel : Feel{}, project());
  if (lane && lane->length.value > 0)
    words = tr("every %1 · ").arg(inBeats(lane->length), 0, 'g', 4) + words;
  if (silent) words = tr("muted");
  theme::drawText(p, name.translated(0, px(18)), Qt::AlignLeft | Qt::AlignVCenter, words,
                  theme::Type::Small, c.quiet);
}

void RibbonsView::drawLines(QPainter& p, const Ribbon& ribbon) {
  const auto& c = theme::colours();
  const PatternPtr pat = pattern();
  const Meter meter = pat->meter;
  const double perBeat = xOf(1) - xOf(0), unit = inBeats(unitOf(meter)), bar = quartersOf(meter);
  const auto line = [&](double beat, double strength) {
    p.fillRect(QRectF(xOf(beat), ribbon.box.top() + 2, 1, ribbon.box.height() - 4),
               theme::mixed(c.line, c.panel, strength));
  };
  const double last = std::min(beats(), m_from + shown());
  if (m_grid > 0 && perBeat / m_grid >= px(6))
    for (auto i = toWhole<std::int64_t>(std::floor(m_from * m_grid)); double(i) / m_grid <= last;
         ++i)
      if (i >= 0) line(double(i) / m_grid, 0.22);
  if (perBeat * unit >= px(5))
    for (auto i = toWhole<std::int64_t>(std::floor(m_from / unit)); double(i) * unit <= last; ++i)
      if (i >= 0) line(double(i) * unit, 0.5);
  for (auto i = toWhole<std::int64_t>(std::floor(m_from / bar)); double(i) * bar <= last + 1e-9;
       ++i)
    if (i >= 0 && (bar * perBeat >= px(5) || i % 4 == 0)) line(double(i) * bar, 0.95);
}

void RibbonsView::drawMarks(QPainter& p, const Ribbon& ribbon, const Hit& hit, QPointF tip) {
  const auto& c = theme::colours();
  const QColor tone = theme::ofRow(ribbon.part.role);
  // What else a hit does, in small signs under its head.
  if (hit.roll.hits > 1) {
    const double perTick = (xOf(1) - xOf(0)) / double(kTicksPerBeat),
                 bottom = ribbon.box.bottom() - px(4);
    p.setPen(QPen(theme::markOf(tone, c.panel, 0.6), 1.2));
    for (int i = 1; i < hit.roll.hits; ++i) {
      const double x = tip.x() + double(hit.roll.step.value) * perTick * i;
      if (x > ribbon.box.right() - px(8)) break;
      const double share = double(i) / (hit.roll.hits - 1),
                   level = 1 + (hit.roll.endLevel - 1) * share;
      p.drawLine(QPointF(x, bottom),
                 QPointF(x, bottom - (bottom - tip.y()) * std::min(1.2, level)));
    }
  }
  if (hit.flam.before.value > 0) {
    const double ms = (xOf(1) - xOf(0)) * project().tempo.value / 60'000;
    const double x = tip.x() - std::max(double(px(4)), hit.flam.before.value * ms);
    p.setPen(QPen(tone, 1.2));
    p.drawLine(QPointF(x, ribbon.box.bottom() - px(4)),
               QPointF(x, tip.y() + (ribbon.box.bottom() - tip.y()) * (1 - hit.flam.level)));
  }
  if (!hit.treatments.empty()) drawTreated(p, hit, {tip.x(), ribbon.box.bottom() - px(6)});
  QString sign;
  if (hit.reversed) sign += QStringLiteral("‹");
  if (hit.condition.chance < 1) sign += QStringLiteral("?");
  if (hit.condition.every > 1)
    sign += QStringLiteral("%1/%2").arg(hit.condition.turn).arg(hit.condition.every);
  if (!sign.isEmpty())
    theme::drawText(p, QRectF(tip.x() + px(5), tip.y() - px(2), px(40), px(12)),
                    Qt::AlignLeft | Qt::AlignVCenter, sign, theme::Type::Small, c.quiet);
}

/// Something is done to this hit alone: a lozenge, hollow where it is not done every time round.
void RibbonsView::drawTreated(QPainter& p, const Hit& hit, QPointF middle) {
  const auto& c = theme::colours();
  const double high = px(4);
  p.setPen(QPen(c.brass, 1.2));
  p.setBrush(hit.treatments.list().every > 1 ? c.panel : c.brass);
  p.drawPolygon(QPolygonF({middle - QPointF(0, high), middle + QPointF(high, 0),
                           middle + QPointF(0, high), middle - QPointF(high, 0)}));
}

void RibbonsView::drawHit(QPainter& p, const Ribbon& ribbon, const Hit& hit, double fromBeat,
                          const ResolvedTiming& timed, bool ghost) {
  const auto& c = theme::colours();
  const QColor tone = ghost ? theme::markOf(theme::ofRow(ribbon.part.role), c.panel, 0)
                            : theme::ofRow(ribbon.part.role);
  const double bottom = ribbon.box.bottom() - px(4);
  const double ruled = xOf(fromBeat + inBeats(hit.at));
  const QPointF tip =
      tipOf(ribbon, fromBeat * double(kTicksPerBeat) + timed.heardAt(hit), timed.velocityOf(hit));
  const bool chosen = !ghost && m_choice.contains(ribbon.part.id, hit);
  // The feel's pull as a shade from the ruled line to where it would sound without leaning itself.
  const double pulled = xOf(fromBeat + beatsOf(timed.placeOf(hit.at)));
  if (std::abs(pulled - ruled) > 1)
    p.fillRect(QRectF(std::min(ruled, pulled), ribbon.box.top() + px(6), std::abs(pulled - ruled),
                      bottom - ribbon.box.top() - px(6)),
               theme::mixed(tone, c.panel, 0.14));
  const QColor ink = chosen ? c.text : tone;
  p.setPen(QPen(ink, chosen ? 2.4 : ghost ? 1.0 : 1.8, Qt::SolidLine, Qt::RoundCap));
  // Foot on the ruled line, head where it is heard: a hit that is late is shifted to the right.
  p.drawLine(QPointF(ruled, bottom), tip);
  if (ribbon.part.role == Row::Cuts) {
    const Key* key = findKey(project(), hit.key);
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
  if (!ghost) drawMarks(p, ribbon, hit, tip);
}

void RibbonsView::drawTone(QPainter& p, const Ribbon& ribbon, const Lane& lane, const Hit& hit,
                           double fromBeat, const ResolvedTiming& timed, bool ghost) {
  const auto& c = theme::colours();
  const double length = hit.length.value > 0 ? inBeats(hit.length) : 0.5;
  const double heard = fromBeat + beatsOf(timed.heardAt(hit));
  const double x = xOf(heard), end = xOf(std::min(beats(), heard + length));
  const double y = toneY(ribbon, lane, hit),
               high =
                   ribbon.open() ? std::clamp(rowHeight(ribbon) - 1, 5.0, double(px(12))) : px(9);
  p.setPen(!ghost && m_choice.contains(ribbon.part.id, hit) ? QPen(c.text, 1.5) : QPen(Qt::NoPen));
  p.setBrush(theme::markOf(theme::ofRow(ribbon.part.role), c.panel,
                           ghost ? 0 : 0.15 + 0.85 * timed.velocityOf(hit)));
  p.drawRoundedRect(QRectF(x, y - high / 2, std::max(4.0, end - x - 1), high), 3, 3);
  if (!ghost && !hit.treatments.empty()) drawTreated(p, hit, {x, y});
  if (ghost || !ribbon.open()) return;
  // What it has to do with the chord under it: full agrees, a bar across is of the key, a ring of
  // neither.
  const Agrees how = agrees(noteOf(project(), hit), chordAt(m_chords, hit.at), project().key);
  const QPointF sign(x + px(6), y);
  if (how == Agrees::Chord) return;
  p.setPen(QPen(how == Agrees::Scale ? c.ground : c.coral, 1.6));
  p.setBrush(c.ground);
  if (how == Agrees::Scale)
    p.drawLine(sign - QPointF(px(2), 0), sign + QPointF(px(2), 0));
  else
    p.drawEllipse(sign, px(2.6), px(2.6));
}

/// What was struck just now is lit, and fades.
void RibbonsView::drawStruck(QPainter& p, const Ribbon& ribbon, const Lane& lane, double now) {
  const auto& c = theme::colours();
  const PatternPtr pat = pattern();
  const ResolvedTiming timed(project(), pat->meter, lane);
  const double lasts = kLitS * project().tempo.value / 60;
  const QColor tone = theme::ofRow(ribbon.part.role);
  p.setPen(Qt::NoPen);
  for (const auto& hit : lane.hits) {
    const double heard = timed.heardAt(hit), age = now - beatsOf(heard);
    if (age < 0 || age > lasts) continue;
    const double left = 1 - age / lasts;
    const QPointF tip = ribbon.tones ? QPointF(xOf(beatsOf(heard)), toneY(ribbon, lane, hit))
                                     : tipOf(ribbon, heard, timed.velocityOf(hit));
    QColor glow = tone;
    glow.setAlphaF(float(0.45 * left));
    p.setBrush(glow);
    const double wide = px(6) + px(6) * left;
    p.drawEllipse(tip, wide, wide);
    p.setBrush(c.text);
    p.setOpacity(left);
    p.drawEllipse(tip, px(2.5), px(2.5));
    p.setOpacity(1);
  }
}

/// Hits closer than can be told apart: the hardest of every column.
void RibbonsView::drawCrowd(QPainter& p, const Ribbon& ribbon, const Lane& lane,
                            const ResolvedTiming& timed) {
  const auto& c = theme::colours();
  const double left = xOf(m_from), right = xOf(m_from + shown());
  std::vector<float> hardest(std::size_t(std::max(1.0, right - left + 2)), 0.0f);
  std::vector<bool> chosen(hardest.size(), false);
  const bool any = !m_choice.empty();
  for (const auto& hit : lane.hits) {
    const double x = xOf(inBeats(hit.at)) - left;
    if (x < 0 || x >= double(hardest.size())) continue;
    auto& column = hardest[std::size_t(x)];
    column = std::max(column, float(timed.velocityOf(hit)));
    if (any && m_choice.contains(ribbon.part.id, hit)) chosen[std::size_t(x)] = true;
  }
  const double bottom = ribbon.box.bottom() - px(4), room = bottom - ribbon.box.top() - px(6);
  p.setRenderHint(QPainter::Antialiasing, false);
  const QColor tone = theme::ofRow(ribbon.part.role);
  for (std::size_t i = 0; i < hardest.size(); ++i) {
    if (hardest[i] <= 0) continue;
    const double height = room * (0.15 + 0.85 * double(hardest[i]));
    p.fillRect(QRectF(left + double(i), bottom - height, 1, height), chosen[i] ? c.text : tone);
  }
  p.setRenderHint(QPainter::Antialiasing, true);
}

void RibbonsView::drawLane(QPainter& p, const Ribbon& ribbon, const Lane& lane) {
  const PatternPtr pat = pattern();
  const auto& c = theme::colours();
  const ResolvedTiming timed(project(), pat->meter, lane);
  const double length = inBeats(lengthOf(*pat, lane)), end = std::min(beats(), m_from + shown());
  const auto earlier = [](const Hit& hit, double beat) { return inBeats(hit.at) < beat; };
  if (lane.length.value > 0 && length < end) // what comes round again is only shown
    p.fillRect(
        QRectF(xOf(length), ribbon.box.top() + 2, xOf(end) - xOf(length), ribbon.box.height() - 4),
        theme::mixed(c.ground, c.panel, 0.4));
  // A beat more on either side: what is shifted in from outside is seen.
  const double from = std::max(0.0, m_from - 1), until = end + 1;
  const auto inView = [&](double beat) {
    return std::lower_bound(lane.hits.begin(), lane.hits.end(), beat, earlier);
  };
  const auto count = std::distance(inView(from), inView(until));
  if (!ribbon.tones && double(count) * px(7) > xOf(m_from + shown()) - xOf(m_from)) {
    drawCrowd(p, ribbon, lane, timed);
    return;
  }
  if (ribbon.tones) drawGlides(p, ribbon, lane, timed);
  for (double round = std::floor(from / length) * length; round < until && round < beats();
       round += length) {
    const bool ghost = round > 0;
    const auto last = inView(std::min(length, until - round));
    for (auto hit = inView(std::max(0.0, from - round)); hit < last; ++hit)
      ribbon.tones ? drawTone(p, ribbon, lane, *hit, round, timed, ghost)
                   : drawHit(p, ribbon, *hit, round, timed, ghost);
  }
}

/// Only what has changed, where the rest stands in the picture already.
void RibbonsView::draw(QPainter& p, bool all) {
  const auto& c = theme::colours();
  p.setRenderHint(QPainter::Antialiasing);
  if (all) p.fillRect(rect(), c.ground);
  const PatternPtr pat = pattern();
  if (!pat) return;
  for (const auto& ribbon : ribbons()) {
    if (!all && !m_dirty.contains(ribbon.part.id)) continue;
    if (!all) p.fillRect(ribbon.box.adjusted(-1, -1, 1, 1), c.ground);
    const Lane* lane = findLane(*pat, ribbon.part.id);
    drawHead(p, ribbon, lane);
    p.save();
    p.setClipRect(QRectF(xOf(m_from) - px(8), ribbon.box.top(),
                         ribbon.box.right() - xOf(m_from) + px(8), ribbon.box.height()));
    if (ribbon.open()) drawNotes(p, ribbon);
    drawLines(p, ribbon);
    if (lane) drawLane(p, ribbon, *lane);
    if (ribbon.open()) drawChordNames(p, ribbon);
    p.restore();
    if (ribbon.open()) drawNoteNames(p, ribbon);
  }
}

void RibbonsView::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  const double ratio = devicePixelRatioF();
  std::vector<QRectF> boxes;
  for (const auto& ribbon : ribbons()) boxes.push_back(ribbon.box);
  m_stale = m_stale || m_picture.size() != size() * ratio || boxes != m_boxes ||
            m_generation != theme::generation();
  if (m_stale || !m_dirty.empty()) {
    if (m_picture.size() != size() * ratio) {
      m_picture = QPixmap(size() * ratio);
      m_picture.setDevicePixelRatio(ratio);
    }
    QPainter picture(&m_picture);
    draw(picture, m_stale);
    m_boxes = std::move(boxes);
    m_stale = false;
    m_generation = theme::generation();
    m_dirty.clear();
  }
  QPainter p(this);
  p.drawPixmap(0, 0, m_picture);
  const PatternPtr pat = pattern();
  if (!pat) return;
  p.setRenderHint(QPainter::Antialiasing);
  const double place = m_transport.positionBeats();
  const bool running = m_transport.playing() && m_transport.plays() == Plays::Pattern && place >= 0;
  for (const auto& ribbon : ribbons()) {
    if (ribbon.part.id == m_target) {
      p.setPen(QPen(c.brass, 2));
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(ribbon.box.adjusted(1, 1, -1, -1), 4, 4);
    }
    if (hasFocus() && ribbon.part.id == currentPart()) {
      p.setPen(QPen(c.brass, 1.5));
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(QRectF(xOf(inBeats(cursor())) - px(4), ribbon.box.top() + 2, px(8),
                               ribbon.box.height() - 4),
                        3, 3);
    }
    // A lane of its own length has a place of its own.
    const double now =
        std::fmod(std::fmod(place, inBeats(laneLength(*pat, ribbon.part.id))), beats());
    if (running && now >= m_from && now <= m_from + shown()) {
      if (const Lane* lane = findLane(*pat, ribbon.part.id); lane && !ribbon.part.muted)
        drawStruck(p, ribbon, *lane, std::fmod(place, inBeats(laneLength(*pat, ribbon.part.id))));
      p.fillRect(QRectF(xOf(now), ribbon.box.top(), 1.5, ribbon.box.height()), c.text);
    }
  }
  if (m_drag == Drag::Band) {
    p.setPen(QPen(c.brass, 1));
    p.setBrush(theme::mixed(c.brass, c.ground, 0.15));
    p.setOpacity(0.5);
    p.drawRect(QRectF(m_press, m_band).normalized());
  }
}

} // namespace tuvvo
