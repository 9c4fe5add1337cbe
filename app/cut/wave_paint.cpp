// What the waveform view looks like.
#include "cut/wave_view.h"
#include "session/music_text.h"

#include "base/convert.h"
#include "listen/chords.h"
#include "theme/theme.h"
#include "widgets/signs.h"

#include <cmath>

namespace tuvvo {

using theme::px;

void WaveView::drawRuler(QPainter& p, const ResolvedSource& s) {
  const auto& c = theme::colours();
  const double rate = s.source().sound->rate().value;
  const auto beats = s.beats();
  const auto& grid = s.grid();
  if (beats.empty() || !grid) {
    // Without a tempo the ruler counts seconds.
    double step = 0.01;
    while (step * rate / m_span * width() < px(60)) step *= step < 1 ? 10 : 5;
    for (double t = std::ceil(m_first / rate / step) * step; t * rate < m_first + m_span;
         t += step) {
      const double x = xOf(t * rate);
      p.fillRect(QRectF(x, px(12), 1, px(8)), c.line);
      theme::drawText(p, QRectF(x + 3, 0, px(60), px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                      QStringLiteral("%1 s").arg(t, 0, 'f', step < 1 ? 2 : 0), theme::Type::Small,
                      c.quiet);
    }
    return;
  }
  // Bars are counted from the first downbeat; beats before it have no number.
  const int index = int(s.downbeat());
  const double perBeat = double(width()) / m_span * 60 / grid->tempo.value * rate;
  int every = 1;
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  const double widest =
      metrics.horizontalAdvance(QString::number(beats.size() / std::size_t(grid->meter) + 1));
  while (perBeat * grid->meter * every < std::max(double(px(26)), widest + px(10))) every *= 2;
  for (std::size_t i = 0; i < beats.size(); ++i) {
    const double x = xOf(beats[i].value * rate);
    if (x < -px(30) || x > width() + 2) continue;
    const int from = int(i) - index,
              bar = from >= 0 ? from / grid->meter : (from - grid->meter + 1) / grid->meter;
    const bool down = from - bar * grid->meter == 0;
    if (down && bar % every == 0) {
      p.fillRect(QRectF(x, ruler().top(), 1, wave().bottom()), theme::mixed(c.line, c.ground, 0.9));
      const QString number = QString::number(bar + 1);
      if (bar >= 0 && x + px(4) + metrics.horizontalAdvance(number) <= width())
        theme::drawText(p, QRectF(x + px(4), 0, px(40), px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                        number, theme::Type::Small, c.quiet);
      if (from == 0) { // the handle of the first downbeat
        p.setPen(Qt::NoPen);
        p.setBrush(c.brass);
        p.drawPolygon(
            QPolygonF({QPointF(x - px(5), 1), QPointF(x + px(5), 1), QPointF(x, px(10))}));
      }
    } else if (perBeat > px(9)) {
      p.fillRect(QRectF(x, px(14), 1, px(6)), c.line);
    }
  }
}

/// What lies under the waveform: the ruler, what is set aside, what is chosen.
void WaveView::drawGround(QPainter& p, const Source& s) {
  const auto& c = theme::colours();
  drawRuler(p, ResolvedSource(s));
  const QRectF box = wave();
  if (const auto grid = gridOf(s); grid && s.cutting.fromDownbeat) { // set aside
    const double x = xOf(grid->downbeat.value * s.sound->rate().value);
    if (x > 0) p.fillRect(QRectF(0, box.top(), x, box.height()), QBrush(c.line, Qt::BDiagPattern));
  }
  for (const auto& cut : s.cuts)
    if (cut.id == selection().cut || selection().alsoCuts.contains(cut.id)) {
      const double x = xOf(double(cut.start.value)), end = xOf(double(cut.end.value));
      p.fillRect(QRectF(x, box.top(), end - x, box.height()),
                 theme::mixed(c.brass, c.ground, 0.22));
    }
}

/// Slices that sound light up under the waveform.
void WaveView::drawSounding(QPainter& p, const Source& s, const Look& look) {
  const auto& c = theme::colours();
  const QRectF box = wave();
  for (const auto& cut : s.cuts) {
    const auto level = m_sounding.find(cut.id);
    if (level == m_sounding.end()) continue;
    const double x = std::max(0.0, xOf(double(cut.start.value))),
                 end = std::min(double(width()), xOf(double(cut.end.value)));
    if (end <= x) continue;
    const QRectF lit(x, box.top(), end - x, box.height());
    p.fillRect(lit, theme::mixed(c.slate, c.ground, 0.12 + 0.3 * double(level->second)));
    p.save();
    p.setClipRect(lit);
    m_over.draw(p, rect(), Qt::transparent, look, [&](QPainter& to) { drawOver(to, s); });
    p.restore();
    drawTab(p, cut, 0.25 + 0.5 * double(level->second));
  }
}

/// What lies over the slices that sound: the waveform, edges, chords, hits, tabs.
void WaveView::drawOver(QPainter& p, const Source& s) {
  drawInk(p, s);
  drawEdges(p, s);
  drawChords(p, s);
  drawMarks(p, ResolvedSource(s));
  drawTabs(p, s);
}

void WaveView::drawEdges(QPainter& p, const Source& s) {
  const auto& c = theme::colours();
  const QRectF box = wave();
  double last = -10;
  for (const auto& cut : s.cuts) {
    const double x = std::floor(xOf(double(cut.start.value)));
    if (x < 0 || x > width() || x - last < 2) continue;
    last = x;
    p.fillRect(QRectF(x, box.top(), 1, box.height() + marks().height()),
               cut.id == selection().cut ? c.brass : theme::markOf(c.quiet, c.ground, 0.4));
  }
}

/// What is heard over it, where there is room for the name.
void WaveView::drawChords(QPainter& p, const Source& s) {
  if (!s.heard || kindOf(s) == SoundKind::Break) return;
  const auto& c = theme::colours();
  const QRectF box = wave();
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  const double rate = s.sound->rate().value;
  double last = 0;
  for (const auto& chord : overAnyBass(s.heard->chords)) {
    const double x = std::max(box.left(), xOf(chord.start.value * rate)) + px(4),
                 end = std::min(box.right(), xOf(chord.end.value * rate));
    const QString name = chordText(chord, keyOf(s), [&](const QString& text) {
      return x + metrics.horizontalAdvance(text) <= end;
    });
    const double wide = metrics.horizontalAdvance(name);
    if (name.isEmpty() || x < last || x + wide > end) continue;
    const QRectF plate(x - px(2), box.top() + px(3), wide + px(5), px(15));
    p.fillRect(plate, c.ground);
    theme::drawText(p, plate, Qt::AlignCenter, name, theme::Type::Small, c.lilac);
    last = plate.right();
  }
}

void WaveView::drawInk(QPainter& p, const Source& s) {
  const auto& c = theme::colours();
  const QRectF box = wave();
  const PeaksPtr peaks = m_peaks.peaksOf(s);
  if (!peaks) {
    theme::drawText(p, box, Qt::AlignCenter, tr("Drawing the waveform…"), theme::Type::Body,
                    c.quiet);
    return;
  }
  const double mid = box.center().y(), half = box.height() / 2 - 3,
               step = m_span / std::max(1, width());
  QList<QLineF> reach, body; // how far it swings, and how loud it is
  reach.reserve(width());
  body.reserve(width());
  for (int x = 0; x < width(); ++x) {
    const Extremes e =
        peaks->over(*s.sound, Frames(std::int64_t(m_first + x * step)),
                    Frames(toWhole<std::int64_t>(std::ceil(m_first + (x + 1) * step))));
    const double top = double(std::min(1.0f, e.high)), foot = double(std::max(-1.0f, e.low)),
                 loud = std::min(1.0, std::sqrt(double(e.square)));
    reach << QLineF(x + 0.5, mid - top * half - 0.5, x + 0.5, mid - foot * half + 0.5);
    body << QLineF(x + 0.5, mid - std::min(top, loud) * half - 0.5, x + 0.5,
                   mid - std::max(foot, -loud) * half + 0.5);
  }
  p.setRenderHint(QPainter::Antialiasing, false);
  p.setPen(QPen(theme::markOf(c.text, c.ground, 0.3), 1));
  p.drawLines(reach);
  p.setPen(QPen(theme::markOf(c.text, c.ground, 0.9), 1));
  p.drawLines(body);
  p.setRenderHint(QPainter::Antialiasing);
}

void WaveView::drawMarks(QPainter& p, const ResolvedSource& s) {
  const auto& c = theme::colours();
  const double rate = s.source().sound->rate().value, y = marks().center().y();
  double last = -100;
  for (const auto& onset : s.onsets()) {
    const double x = xOf(onset.at.value * rate) + px(6);
    if (x < 0 || x > width() || x - last < px(11)) continue;
    last = x;
    drawHitSign(p, onset.hits.empty() ? HitClass::Other : onset.hits.front(), {x, y}, px(5),
                c.quiet);
  }
}

void WaveView::drawTabs(QPainter& p, const Source& s) {
  double last = -10;
  for (const auto& cut : s.cuts) {
    const double x = xOf(double(cut.start.value));
    if (xOf(double(cut.end.value)) < 0 || x > width() || x - last < 3) continue;
    last = x;
    drawTab(p, cut, 0);
  }
}

void WaveView::drawTab(QPainter& p, const Cut& cut, double lit) {
  const auto& c = theme::colours();
  const QRectF row = tabs();
  const double x = xOf(double(cut.start.value)), end = xOf(double(cut.end.value));
  const QRectF box(x + 1, row.top(), std::max(3.0, end - x - 2), row.height() - 1);
  const bool on = cut.id == selection().cut || selection().alsoCuts.contains(cut.id);
  p.setPen(QPen(on ? c.brass : cut.byHand ? c.mint : lit > 0 ? c.slate : c.line, 1));
  p.setBrush(on ? c.brass : theme::mixed(c.slate, c.raised, lit));
  if (box.width() < px(8)) { // nobody sees the corners of hundreds of them
    p.fillRect(box, p.brush());
    if (on || cut.byHand) p.fillRect(box, p.pen().color());
    return;
  }
  p.drawRoundedRect(box, 3, 3);
  if (box.width() < px(13)) return;
  // The key that plays it: its place on the deck, and the page where there are several.
  QString label = QStringLiteral("·");
  bool treated = false;
  for (const auto& key : project().keys)
    if (key.sound == SoundRef{selection().source, cut.id}) {
      label = QString::number(key.column + 1);
      treated = isTreated(key);
    }
  if (treated && box.width() >= px(24))
    drawTreatedSign(p, {box.right() - px(7), box.center().y()}, on ? c.ground : c.lilac);
  theme::drawText(p, box.adjusted(4, 0, -2, 0), Qt::AlignLeft | Qt::AlignVCenter, label,
                  theme::Type::Small, on ? c.ground : c.text);
}

void WaveView::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const Source* s = source();
  if (!s) {
    p.fillRect(rect(), c.ground);
    theme::drawText(p, rect(), Qt::AlignCenter,
                    tr("Choose a source in the crate, or drop a sound here."), theme::Type::Body,
                    c.quiet);
    return;
  }
  const Look look{m_changes, m_first, m_span};
  m_whole.draw(p, rect(), c.ground, look, [&](QPainter& to) {
    drawGround(to, *s);
    drawOver(to, *s);
  });
  drawSounding(p, *s, look);
  if (m_place.value >= 0)
    p.fillRect(QRectF(xOf(m_place.value * s->sound->rate().value) - 1, 0, 2, height()), c.coral);
  if (hasFocus()) {
    p.setPen(QPen(theme::markOf(c.brass, c.ground, 0.5), 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(wave().adjusted(0.5, 0.5, -0.5, -0.5), 3, 3);
  }
}

} // namespace tuvvo
