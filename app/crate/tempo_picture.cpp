#include "crate/tempo_picture.h"

#include "theme/theme.h"

#include <QCoreApplication>
#include <QPainterPath>
#include <algorithm>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

QString said(const char* text) { return QCoreApplication::translate("TempoPicture", text); }

double acrossOf(double bpm, const QRectF& box) {
  return box.left() + std::log(bpm / 40) / std::log(6.0) * box.width();
}

void drawCurve(QPainter& p, const QRectF& box, const Source& source) {
  const auto& c = theme::colours();
  const auto& curve = source.heard->tempo->curve;
  const float top = std::max(0.05f, *std::max_element(curve.begin(), curve.end()));
  const QRectF plot = box.adjusted(0, 0, 0, -px(12));
  QPainterPath shape(plot.bottomLeft());
  for (std::size_t i = 0; i < curve.size(); ++i)
    shape.lineTo(plot.left() + double(i) / double(curve.size() - 1) * plot.width(),
                 plot.bottom() - double(curve[i] / top) * plot.height());
  shape.lineTo(plot.bottomRight());
  p.setPen(Qt::NoPen);
  p.setBrush(theme::markOf(c.slate, c.panel, 0.5));
  p.drawPath(shape);
  p.setPen(QPen(c.quiet, 1, Qt::DotLine));
  for (const auto& other : source.heard->tempo->alternatives)
    if (other.bpm.value >= 40 && other.bpm.value <= 240)
      p.drawLine(QPointF(acrossOf(other.bpm.value, plot), plot.top()),
                 QPointF(acrossOf(other.bpm.value, plot), plot.bottom()));
  if (const auto grid = gridOf(source);
      grid && grid->tempo.value >= 40 && grid->tempo.value <= 240) {
    p.setPen(QPen(c.brass, 2));
    const double x = acrossOf(grid->tempo.value, plot);
    p.drawLine(QPointF(x, plot.top()), QPointF(x, plot.bottom()));
  }
  for (int bpm : {40, 80, 160})
    theme::drawText(p, QRectF(acrossOf(bpm, plot), plot.bottom(), px(34), px(12)),
                    Qt::AlignLeft | Qt::AlignVCenter, QString::number(bpm), theme::Type::Small,
                    c.quiet);
}

void drawDrift(QPainter& p, const QRectF& box, const Source& source) {
  const auto& c = theme::colours();
  const auto& beats = source.heard->beats;
  std::vector<double> tempos;
  for (std::size_t i = 0; i + 4 < beats.size(); ++i)
    tempos.push_back(240 / std::max(1e-3, (beats[i + 4] - beats[i]).value));
  if (tempos.size() < 2) return;
  const auto [low, high] = std::minmax_element(tempos.begin(), tempos.end());
  const double range = std::max(1.0, *high - *low);
  const QRectF plot = box.adjusted(0, px(2), 0, -px(14));
  p.setPen(QPen(c.line, 1));
  p.drawLine(plot.bottomLeft(), plot.bottomRight());
  QPainterPath path;
  for (std::size_t i = 0; i < tempos.size(); ++i) {
    const QPointF at(plot.left() + double(i) / double(tempos.size() - 1) * plot.width(),
                     plot.bottom() - (tempos[i] - *low) / range * plot.height());
    i == 0 ? path.moveTo(at) : path.lineTo(at);
  }
  p.setBrush(Qt::NoBrush);
  p.setPen(QPen(c.slate, 1.6));
  p.drawPath(path);
  theme::drawText(p, QRectF(box.left(), plot.bottom() + 1, box.width(), px(13)),
                  Qt::AlignLeft | Qt::AlignVCenter,
                  said(QT_TRANSLATE_NOOP("TempoPicture", "%1 to %2 BPM"))
                      .arg(*low, 0, 'f', 1)
                      .arg(*high, 0, 'f', 1),
                  theme::Type::Small, c.quiet);
}

} // namespace

void drawTempoPicture(QPainter& p, const QRectF& box, const Source& source) {
  if (!source.heard || !source.heard->tempo) return;
  p.save();
  if (!source.heard->tempo->steady)
    drawDrift(p, box, source);
  else if (!source.heard->tempo->curve.empty())
    drawCurve(p, box, source);
  p.restore();
}

} // namespace tuvvo
