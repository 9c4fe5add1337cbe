// Open ribbons: a row a note, the scale and the chords behind, glides between notes.
#include "base/convert.h"
#include "beat/ribbons_view.h"
#include "session/music_text.h"
#include "theme/theme.h"
#include "tones/theory.h"

#include <QPainterPath>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kFewestNotes = 13, kMostNotes = 37; ///< rows of an open ribbon
constexpr double kHeadRow = 17;                   ///< where chords are named
} // namespace

void RibbonsView::setOpen(Id part, bool open) {
  if (open == m_open.contains(part) || part == 0) return;
  open ? void(m_open.emplace(part, Rows{})) : void(m_open.erase(part));
  makeRows(false);
  m_stale = true;
  analyseChords();
  updateGeometry();
  update();
  showPart(m_part);
}

void RibbonsView::showPart(Id part) {
  choosePart(part);
  m_sight = part;
  bringIntoSight();
}

/// The ribbons grow a little after one is opened.
void RibbonsView::bringIntoSight() {
  if (m_sight == 0 || height() < heightNeeded() - px(8)) return;
  for (const auto& ribbon : ribbons())
    if (ribbon.part.id == m_sight) emit wantsSight(ribbon.box.toRect());
  m_sight = 0;
}

void RibbonsView::resizeEvent(QResizeEvent*) {
  m_stale = true;
  bringIntoSight();
}

void RibbonsView::analyseChords() {
  const PatternPtr pat = pattern();
  std::vector<ChordSpan> now;
  if (pat && !m_open.empty()) now = chordsOf(project(), *pat);
  const auto same = [](const ChordSpan& a, const ChordSpan& b) {
    return a.from == b.from && a.until == b.until && a.chord.root == b.chord.root &&
           a.chord.kind == b.chord.kind && a.source == b.source;
  };
  if (std::equal(now.begin(), now.end(), m_chords.begin(), m_chords.end(), same)) return;
  m_chords = std::move(now);
  for (const auto& [part, rows] : m_open) m_dirty.insert(part);
}

/// The notes that an open ribbon has rows for: those of its hits and some around them. Rows stay
/// under the pointer: there are only ever more of them, until another pattern is shown.
void RibbonsView::makeRows(bool anew) {
  const PatternPtr pat = pattern();
  for (auto& [part, rows] : m_open) {
    const Lane* lane = pat ? findLane(*pat, part) : nullptr;
    const Part* of = findPart(project(), part);
    if (!of) continue;
    Hit plain;
    plain.key = keyForNew(*of);
    Rows needed{noteOf(project(), plain), noteOf(project(), plain)};
    if (lane && !lane->hits.empty()) {
      needed = {200, -200};
      for (const auto& hit : lane->hits) {
        const int note = noteOf(project(), hit);
        needed.lowest = std::min(needed.lowest, note);
        needed.highest = std::max(needed.highest, note);
      }
    }
    needed.highest = std::min(needed.highest, needed.lowest + kMostNotes - 3);
    if (!anew && rows.lowest <= needed.lowest && rows.highest >= needed.highest) continue;
    const int missing = std::max(2, kFewestNotes - (needed.highest - needed.lowest + 1));
    const Rows made{needed.lowest - missing / 2, needed.highest + (missing + 1) / 2};
    const bool grows = !anew && rows.highest >= rows.lowest;
    rows = grows ? Rows{std::min(rows.lowest, made.lowest), std::max(rows.highest, made.highest)}
                 : made;
    rows.highest = std::min(rows.highest, rows.lowest + kMostNotes - 1);
    m_dirty.insert(part);
  }
}

double RibbonsView::rowHeight(const Ribbon& ribbon) const {
  return (ribbon.box.height() - px(kHeadRow) - px(4)) /
         (ribbon.rows.highest - ribbon.rows.lowest + 1);
}

double RibbonsView::noteY(const Ribbon& ribbon, int note) const {
  return ribbon.box.top() + px(kHeadRow) + (ribbon.rows.highest - note + 0.5) * rowHeight(ribbon);
}

int RibbonsView::noteAt(const Ribbon& ribbon, double y) const {
  const double rows = (y - ribbon.box.top() - px(kHeadRow)) / rowHeight(ribbon);
  return std::clamp(ribbon.rows.highest - toWhole<int>(std::floor(rows)), ribbon.rows.lowest,
                    ribbon.rows.highest);
}

/// Without a pointer: the root of the chord that sounds there, within the rows; else the tonic.
int RibbonsView::noteForNew(const Ribbon& ribbon, Beats at) const {
  const ChordSpan* span = chordAt(m_chords, at);
  const auto& key = project().key;
  const int root = span ? span->chord.root : key ? key->tonic : ribbon.rows.lowest;
  const int note = noteAbove(root, ribbon.rows.lowest);
  return note <= ribbon.rows.highest ? note : ribbon.rows.lowest;
}

void RibbonsView::drawNotes(QPainter& p, const Ribbon& ribbon) {
  const auto& c = theme::colours();
  const auto& key = project().key;
  const double left = xOf(m_from), right = ribbon.box.right() - px(4), high = rowHeight(ribbon);
  const auto row = [&](int note, double from, double until) {
    return QRectF(from, noteY(ribbon, note) - high / 2, until - from, high);
  };
  // The scale: its notes stand on lighter rows, the tonic on the lightest.
  for (int note = ribbon.rows.lowest; note <= ribbon.rows.highest; ++note) {
    if (key && !inScale(*key, note)) continue;
    const bool tonic = key && (note - key->tonic) % 12 == 0;
    p.fillRect(row(note, left, right), theme::mixed(c.raised, c.panel, tonic ? 0.95 : 0.5));
  }
  // The chord under every place: its tones, and its root more so.
  for (const auto& span : m_chords) {
    const double from = std::max(left, xOf(inBeats(span.from))),
                 until = std::min(right, xOf(inBeats(span.until)));
    if (until <= from) continue;
    for (int note = ribbon.rows.lowest; note <= ribbon.rows.highest; ++note)
      if (hasTone(span.chord, note))
        p.fillRect(row(note, from, until),
                   theme::mixed(c.mint, c.panel, (note - span.chord.root) % 12 == 0 ? 0.34 : 0.17));
    p.fillRect(QRectF(from, ribbon.box.top() + 2, 1, ribbon.box.height() - 4),
               theme::markOf(c.mint, c.panel, 0.2));
  }
}

/// Over the lines of the grid: what chords are called.
void RibbonsView::drawChordNames(QPainter& p, const Ribbon& ribbon) {
  const auto& c = theme::colours();
  const auto& key = project().key;
  const double left = xOf(m_from), right = ribbon.box.right() - px(4);
  for (const auto& span : m_chords) {
    const double from = std::max(left, xOf(inBeats(span.from))),
                 until = std::min(right, xOf(inBeats(span.until)));
    if (until - from < px(10)) continue;
    p.fillRect(QRectF(from + 1, ribbon.box.top() + 1, until - from - 1, px(kHeadRow) - 1), c.panel);
    QString name = musicText(spelt(span.chord, key));
    if (key && until - from > px(70))
      name += QStringLiteral(" · ") + QString::fromStdString(romanOf(span.chord, *key));
    theme::drawText(p,
                    QRectF(from + px(4), ribbon.box.top() + 1, until - from - px(5), px(kHeadRow)),
                    Qt::AlignLeft | Qt::AlignVCenter, name, theme::Type::Small,
                    span.source == 0 ? c.brass : c.mint);
  }
  if (m_chords.empty())
    theme::drawText(p, QRectF(left + px(4), ribbon.box.top() + 1, right - left, px(kHeadRow)),
                    Qt::AlignLeft | Qt::AlignVCenter,
                    tr("no chords: play slices of a source with chords, or write them (Bass)"),
                    theme::Type::Small, c.quiet);
}

/// The notes of the key beside their rows, where there is room for them; else the tonic alone.
void RibbonsView::drawNoteNames(QPainter& p, const Ribbon& ribbon) {
  const auto& c = theme::colours();
  const auto& key = project().key;
  const double high = rowHeight(ribbon), right = xOf(m_from) - px(4);
  for (int note = ribbon.rows.lowest; note <= ribbon.rows.highest; ++note) {
    const bool tonic = key ? (note - key->tonic) % 12 == 0 : note % 12 == 0;
    if (!tonic && (high < px(10) || (key && !inScale(*key, note)))) continue;
    theme::drawText(p, QRectF(right - px(30), noteY(ribbon, note) - px(8), px(30), px(16)),
                    Qt::AlignRight | Qt::AlignVCenter, musicText(speltNote(note, key)),
                    theme::Type::Small, tonic ? c.text : c.quiet);
  }
}

/// Where one note slides into the next: a key that glides, struck while it is held.
void RibbonsView::drawGlides(QPainter& p, const Ribbon& ribbon, const Lane& lane,
                             const ResolvedTiming& timed) {
  const auto& c = theme::colours();
  const double msPerBeat = 60'000 / std::max(1.0, project().tempo.value);
  p.setBrush(Qt::NoBrush);
  for (std::size_t i = 0; i < lane.hits.size(); ++i) {
    const Hit& now = lane.hits[i];
    const Key* key = findKey(project(), now.key);
    const double glide = key ? glideOf(now, *key).value / msPerBeat : 0;
    if (glide <= 0) continue;
    const double at = timed.heardAt(now) / double(kTicksPerBeat), until = at + glide;
    if (at > m_from + shown() || until < m_from) continue;
    // From what still sounds of its key; else from where the hit itself begins.
    Hit start = now;
    start.tune += now.glide.from;
    if (i > 0 && key->mono && lane.hits[i - 1].key == now.key) {
      const Hit& before = lane.hits[i - 1];
      const double dying = key->envelope.release.value / msPerBeat;
      const double end =
          (timed.heardAt(before) + double(before.length.value)) / double(kTicksPerBeat);
      if (before.length.value == 0 || end + dying >= at) start = before;
    }
    if (start.tune == now.tune) continue;
    const QPointF from(xOf(at), toneY(ribbon, lane, start)),
        to(xOf(until), toneY(ribbon, lane, now));
    QPainterPath path(from);
    path.cubicTo({(from.x() + to.x()) / 2, from.y()}, {(from.x() + to.x()) / 2, to.y()}, to);
    p.setPen(QPen(c.brass, 2, Qt::SolidLine, Qt::RoundCap));
    p.drawPath(path);
  }
}

} // namespace tuvvo
