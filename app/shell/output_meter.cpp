#include "shell/output_meter.h"

#include "session/transport.h"
#include "theme/theme.h"

#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

constexpr double kLowest = -48; // dBFS: the left end
/// What a limiter may do without being heard for it (common practice, no source).
constexpr double kMuch = 3;
constexpr double kMostShown = 12; // dB of limiting: half of the width

double decibels(float peak) { return 20 * std::log10(double(peak)); }

double share(float peak) {
  return peak <= 1e-4f ? 0.0 : std::clamp((decibels(peak) - kLowest) / -kLowest, 0.0, 1.0);
}

} // namespace

OutputMeter::OutputMeter(Panel& host, Player& player, Transport& transport, QWidget* parent)
    : Panel(host, parent), m_player(player) {
  setAccessibleName(tr("Output level"));
  setToolTip(tr("Output level in dBFS with the highest peak; click to forget it. The limiter keeps "
                "the output under −0.3 dBFS, and says by how much it turns down: now and then a "
                "little is usual, more than 3 dB is a mix that is too loud. Start quiet: Tuvvo "
                "cannot measure the sound pressure in your ear."));
  setFixedWidth(px(194));
  connect(&transport, &Transport::tick, this, &OutputMeter::refresh);
}

void OutputMeter::refresh() {
  const auto peaks = m_player.peaks();
  m_hold = std::max({m_hold, peaks[0], peaks[1]});
  update();
}

void OutputMeter::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const double words = px(76), w = width() - words - px(8), h = px(7), gap = px(3);
  const double middle = height() / 2.0;
  double y = middle - h - gap / 2;
  p.setPen(Qt::NoPen);
  for (float peak : m_player.peaks()) {
    p.setBrush(c.raised);
    p.drawRoundedRect(QRectF(0, y, w, h), h / 2, h / 2);
    if (const double filled = w * share(peak); filled > 1) {
      p.save();
      p.setClipRect(QRectF(0, y, filled, h));
      p.setBrush(c.mint);
      p.drawRoundedRect(QRectF(0, y, w, h), h / 2, h / 2);
      p.restore();
    }
    y += h + gap;
  }
  if (m_hold > 1e-4f)
    p.fillRect(
        QRectF(std::min(w - 2, w * share(m_hold)), middle - h - gap - 2, 2, 2 * h + 2 * gap + 4),
        c.brass);
  const double limited = m_player.limited().value;
  const QColor ink = limited > kMuch ? c.coral : c.brass;
  if (limited >= 0.05) { // from the right, as it takes away
    const double wide = w / 2 * std::min(1.0, limited / kMostShown);
    p.fillRect(QRectF(w - wide, middle + h + gap + px(2), wide, px(3)), ink);
  }
  const auto line = [&](double top, const QString& text, theme::Type type, QColor colour) {
    theme::drawText(p, QRectF(width() - words, top, words, px(18)),
                    Qt::AlignVCenter | Qt::AlignRight, text, type, colour);
  };
  const QString peak = m_hold > 1e-4f ? tr("%1 dB").arg(decibels(m_hold), 0, 'f', 1) : tr("silent");
  line(middle - px(18), QString(peak).replace(QLatin1Char('-'), QChar(0x2212)), theme::Type::Body,
       c.text);
  if (limited >= 0.05)
    line(middle, tr("limits %1 dB").arg(limited, 0, 'f', 1), theme::Type::Small, ink);
  else
    line(middle, tr("peak"), theme::Type::Small, c.quiet);
}

} // namespace tuvvo
