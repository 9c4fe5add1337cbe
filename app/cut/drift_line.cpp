#include "cut/drift_line.h"

#include "theme/theme.h"

#include <cmath>

namespace tuvvo {

using theme::px;

DriftLine::DriftLine(Session& session, WaveView& wave, QWidget* parent)
    : QWidget(parent), m_session(session), m_wave(wave) {
  setAccessibleName(tr("Drift line"));
  setToolTip(tr("How early (up) or late (down) the beats were played, against an even grid through "
                "all of them."));
  setFixedHeight(px(66));
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, qOverload<>(&QWidget::update));
  connect(&wave, &WaveView::viewChanged, this, qOverload<>(&QWidget::update));
}

void DriftLine::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  theme::drawText(p, QRectF(0, 0, px(60), px(16)), Qt::AlignLeft | Qt::AlignVCenter, tr("Drift"),
                  theme::Type::Strong, c.text);
  const Source* s = findSource(m_session.project(), m_session.selection().source);
  if (!s || !s->heard || !s->sound || s->heard->beats.size() < 3) {
    theme::drawText(p, QRectF(px(46), 0, width() - px(50), px(16)),
                    Qt::AlignLeft | Qt::AlignVCenter, tr("no beats to compare"), theme::Type::Small,
                    c.quiet);
    return;
  }
  // An even grid through all played beats, by least squares.
  const auto& beats = s->heard->beats;
  const double n = double(beats.size());
  double sx = 0, sy = 0, sxx = 0, sxy = 0;
  for (std::size_t i = 0; i < beats.size(); ++i) {
    sx += double(i);
    sy += beats[i].value;
    sxx += double(i * i);
    sxy += double(i) * beats[i].value;
  }
  const double slope = (n * sxy - sx * sy) / (n * sxx - sx * sx), start = (sy - slope * sx) / n;
  double most = 10;
  std::vector<double> off;
  for (std::size_t i = 0; i < beats.size(); ++i) {
    off.push_back((beats[i].value - start - slope * double(i)) * 1000);
    most = std::max(most, std::abs(off.back()));
  }
  theme::drawText(p, QRectF(px(46), 0, px(60), px(16)), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("early"), theme::Type::Small, c.quiet);
  theme::drawText(p, QRectF(px(46), height() - px(15), px(60), px(15)),
                  Qt::AlignLeft | Qt::AlignVCenter, tr("late"), theme::Type::Small, c.quiet);
  theme::drawText(p, QRectF(px(100), 0, width() - px(104), px(16)),
                  Qt::AlignRight | Qt::AlignVCenter,
                  most <= 10.01 ? tr("even within %1 ms").arg(10)
                                : tr("up to %1 ms off an even grid").arg(int(std::ceil(most))),
                  theme::Type::Small, c.text);
  const double mid = height() / 2.0 + px(1), half = height() / 2.0 - px(17);
  const double steady = half * 10 / most; // within 10 ms counts as even
  p.fillRect(QRectF(0, mid - steady, width(), 2 * steady), theme::mixed(c.mint, c.ground, 0.14));
  p.fillRect(QRectF(0, mid, width(), 1), c.line);
  QPolygonF line;
  for (std::size_t i = 0; i < beats.size(); ++i)
    line << QPointF(m_wave.xOf(beats[i].value * s->sound->rate().value),
                    mid + off[i] / most * half);
  p.setPen(QPen(c.slate, 1.5));
  p.drawPolyline(line);
  p.setPen(Qt::NoPen);
  p.setBrush(c.slate);
  for (const QPointF& point : line) p.drawEllipse(point, 2.5, 2.5);
}

} // namespace tuvvo
