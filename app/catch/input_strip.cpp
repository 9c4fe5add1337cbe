#include "catch/input_strip.h"

#include "theme/theme.h"
#include "widgets/combo.h"

#include <QKeyEvent>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

constexpr double kLowestDb = -60;

double dbOf(float level) { return level > 0 ? 20 * std::log10(double(level)) : -200; }

QString dbText(float level) {
  return level > 1e-5f
             ? QString::number(dbOf(level), 'f', 1).replace(QLatin1Char('-'), QChar(0x2212))
             : QStringLiteral("−∞");
}

} // namespace

InputStrip::InputStrip(Panel& host, CatchService& catching, QWidget* parent)
    : Panel(host, parent), m_catching(catching) {
  setAccessibleName(tr("Input level"));
  setToolTip(
      tr("What comes in: bar = peak, dark = RMS, tick = highest of the last three seconds, in "
         "dBFS. Aim for the shaded stretch. Click to forget clips and peaks (Enter)"));
  setFocusPolicy(Qt::StrongFocus);
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  connect(&catching, &CatchService::levelMoved, this, [this] { update(); });
  connect(&catching, &CatchService::changed, this, [this] { update(); });
}

QSize InputStrip::sizeHint() const { return {px(500), px(76)}; }
QSize InputStrip::minimumSizeHint() const { return {px(300), px(76)}; }

double InputStrip::xOf(double db) const {
  const double left = px(18), right = width() - px(176);
  return left + std::clamp((db - kLowestDb) / -kLowestDb, 0.0, 1.0) * (right - left);
}

QString InputStrip::advice() const {
  const auto& service = m_catching;
  if (!service.listens()) return tr("No input. Choose one, real or simulated.");
  const auto& level = service.level();
  using Is = LevelAdvice::Is;
  const QString by = QString::number(std::abs(level.advice.change), 'f', 0);
  switch (level.advice.is) {
  case Is::Silent:
    return tr("Nothing is heard. Play something as loud as it will get.");
  case Is::Quiet:
    return tr("Turn the input up by about %1 dB.").arg(by);
  case Is::Loud:
    return tr("Turn the input down by about %1 dB: it may clip.").arg(by);
  case Is::Clipped:
    return tr("It clipped. Turn the input down by %1 dB or more, then click here.").arg(by);
  case Is::Good:
    break;
  }
  return tr("The level is good.");
}

void InputStrip::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const auto& level = m_catching.level();
  const bool on = m_catching.listens();
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(QRectF(rect()), 6, 6);
  const double top = px(8), tall = px(9), gap = px(5);
  const QRectF lines(xOf(kLowestDb), top, xOf(0) - xOf(kLowestDb), 2 * tall + gap);
  p.fillRect(QRectF(xOf(kTargetLowDb), lines.top() - px(3), xOf(kTargetHighDb) - xOf(kTargetLowDb),
                    lines.height() + px(6)),
             theme::mixed(c.mint, c.panel, 0.22));
  for (std::size_t channel = 0; channel < 2; ++channel) {
    const double y = top + double(channel) * (tall + gap);
    theme::drawText(p, QRectF(px(4), y - px(3), px(14), tall + px(6)), Qt::AlignCenter,
                    channel == 0 ? tr("L") : tr("R"), theme::Type::Small, c.quiet);
    p.fillRect(QRectF(lines.left(), y, lines.width(), tall), c.raised);
    if (!on) continue;
    const double peak = dbOf(level.peak[channel]), held = dbOf(level.held[channel]),
                 rms = dbOf(level.rms[channel]);
    const QColor ink = peak > -0.1 ? c.coral : peak > kTargetHighDb ? c.brass : c.mint;
    if (peak > kLowestDb) p.fillRect(QRectF(lines.left(), y, xOf(peak) - lines.left(), tall), ink);
    if (rms > kLowestDb)
      p.fillRect(QRectF(lines.left(), y, xOf(rms) - lines.left(), tall),
                 theme::markOf(ink, c.raised, 0));
    if (held > kLowestDb) p.fillRect(QRectF(xOf(held) - 1, y - px(1), 2, tall + px(2)), c.text);
  }
  for (int db = -60; db <= 0; db += 12)
    theme::drawText(p, QRectF(xOf(db) - px(20), lines.bottom() + px(1), px(40), px(14)),
                    Qt::AlignCenter, db == 0 ? tr("0") : QStringLiteral("−%1").arg(-db),
                    theme::Type::Small, c.quiet);
  // Figures at the right.
  const double x = xOf(0) + px(14), w = width() - x - px(8);
  if (on) {
    theme::drawText(p, QRectF(x, px(2), w, px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("peak %1   %2").arg(dbText(level.held[0]), dbText(level.held[1])),
                    theme::Type::Small, c.text);
    theme::drawText(p, QRectF(x, px(19), w, px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("RMS %1   %2").arg(dbText(level.rms[0]), dbText(level.rms[1])),
                    theme::Type::Small, c.quiet);
    theme::drawText(p, QRectF(x, px(36), w, px(18)), Qt::AlignLeft | Qt::AlignVCenter,
                    level.clips == 0 ? tr("no clips")
                                     : counted(level.clips, tr("clip"), tr("clips")),
                    theme::Type::Small, level.clips == 0 ? c.quiet : c.coral);
  }
  using Is = LevelAdvice::Is;
  const QColor ink = !on || level.advice.is == Is::Silent ? c.quiet
                     : level.advice.is == Is::Good        ? c.mint
                     : level.advice.is == Is::Clipped     ? c.coral
                                                          : c.brass;
  theme::drawText(p, QRectF(px(18), height() - px(25), width() - px(30), px(20)),
                  Qt::AlignLeft | Qt::AlignVCenter, advice(), theme::Type::Body, ink);
  if (hasFocus()) {
    p.setPen(QPen(c.brass, 1.5));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 6, 6);
  }
}

void InputStrip::mousePressEvent(QMouseEvent*) { m_catching.forgetPeaks(); }

void InputStrip::keyPressEvent(QKeyEvent* event) {
  if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter)
    m_catching.forgetPeaks();
  else
    QWidget::keyPressEvent(event);
}

} // namespace tuvvo
