#include "crate/source_card.h"

#include "theme/theme.h"
#include "widgets/combo.h"
#include "widgets/small_wave.h"

#include <cmath>

namespace tuvvo {

using theme::px;

QString tempoText(const Source& source) {
  if (!source.heard && !source.corrections.tempo)
    return source.kit ? QString() : SourceCard::tr("listening…");
  const auto grid = gridOf(source);
  return grid ? QStringLiteral("%1 BPM").arg(grid->tempo.value, 0, 'f', 2)
              : SourceCard::tr("no tempo");
}

QString keyText(const Source& source) {
  const auto key = keyOf(source);
  return key ? QString::fromStdString(nameOf(*key)) : SourceCard::tr("no key");
}

QString lengthText(const Source& source) {
  if (!source.sound) return SourceCard::tr("missing");
  const double s = source.sound->duration().value;
  if (s < 60) return QStringLiteral("%1 s").arg(s, 0, 'f', 2);
  return QStringLiteral("%1:%2").arg(int(s) / 60).arg(int(s) % 60, 2, 10, QLatin1Char('0'));
}

namespace {

/// Bar lines with numbers over the small waveform, as many as there is room for.
void drawBars(QPainter& p, const QRectF& wave, const Source& source, double scale) {
  const auto& c = theme::colours();
  const auto bars = barsOf(source);
  if (bars.empty()) return;
  int every = 1;
  while (wave.width() * every / double(bars.size()) < px(22)) every *= 2;
  for (std::size_t i = 0; i < bars.size(); i += std::size_t(every)) {
    const double x = wave.left() + bars[i].value * scale;
    p.fillRect(QRectF(x, wave.top(), 1, wave.height()), theme::mixed(c.line, c.panel, 0.9));
    theme::drawText(p, QRectF(x + 3, wave.top() - px(3), px(30), px(13)),
                    Qt::AlignLeft | Qt::AlignTop, QString::number(i + 1), theme::Type::Small,
                    c.quiet);
  }
}

/// The chords as a band of names under it, each as wide as it sounds; the chosen palette's lilac
/// where the name fits, a plain block where it does not.
void drawChords(QPainter& p, const QRectF& band, const Source& source, double scale) {
  const auto& c = theme::colours();
  for (const auto& chord : source.heard->chords) {
    const QRectF box(band.left() + chord.start.value * scale, band.top(),
                     std::max(1.0, (chord.end - chord.start).value * scale - 1), band.height());
    p.setPen(Qt::NoPen);
    p.setBrush(theme::mixed(c.lilac, c.panel, 0.22));
    p.drawRoundedRect(box, 2, 2);
    const QString name = QString::fromStdString(chord.name);
    const QFontMetricsF metrics(theme::font(theme::Type::Small));
    if (metrics.horizontalAdvance(name) + 4 < box.width())
      theme::drawText(p, box, Qt::AlignCenter, name, theme::Type::Small, c.text);
  }
}

} // namespace

SourceCard::SourceCard(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  setAccessibleName(tr("Source card"));
  setMinimumHeight(px(190));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  connect(&session, &Session::changed, this, qOverload<>(&QWidget::update));
  connect(&session, &Session::selectionChanged, this, [this] {
    m_tapped.clear();
    update();
  });
}

QSize SourceCard::sizeHint() const { return {px(330), px(200)}; }

void SourceCard::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(rect(), 8, 8);
  const Source* source = findSource(m_session.project(), m_session.selection().source);
  const double left = px(14), w = width() - 2 * left;
  if (!source) {
    theme::drawText(p, QRectF(rect()).adjusted(left, 0, -left, 0), Qt::AlignCenter,
                    tr("Drop a sound anywhere to begin"), theme::Type::Strong, c.quiet);
    return;
  }
  theme::drawText(p, QRectF(left, px(9), w, px(22)), Qt::AlignLeft | Qt::AlignVCenter,
                  QString::fromStdString(source->name), theme::Type::Title, c.text);
  const QRectF wave(left, px(36), w, px(52));
  if (source->sound) {
    const double scale = w / std::max(1e-6, source->sound->duration().value);
    drawBars(p, wave, *source, scale);
    drawSmallWave(p, wave, *source->sound, m_session.peaksOf(*source),
                  {Frames(0), source->sound->frames()}, theme::mixed(c.text, c.panel, 0.75));
    if (source->heard)
      drawChords(p, QRectF(left, wave.bottom() + px(3), w, px(15)), *source, scale);
  }
  const auto figure = [&](int column, const QString& value, const QString& label, QColor ink) {
    const QRectF box(left + w / 3 * column, px(110), w / 3 - px(6), px(26));
    theme::drawText(p, box, Qt::AlignLeft | Qt::AlignVCenter, value, theme::Type::Title, ink);
    theme::drawText(p, box.translated(0, px(22)), Qt::AlignLeft | Qt::AlignVCenter, label,
                    theme::Type::Small, c.quiet);
  };
  const auto& heard = source->heard;
  QString tempoLabel = tr("no pulse heard");
  if (source->corrections.tempo)
    tempoLabel = tr("as you said");
  else if (heard && heard->tempo)
    tempoLabel =
        heard->loop ? tr("exact, %1").arg(counted(heard->loop->bars, tr("bar"), tr("bars")))
        : heard->tempo->steady ? tr("steady, %1 % sure").arg(int(heard->tempo->confidence * 100))
                               : tr("drifts ±%1 ms").arg(int(heard->tempo->drift.value));
  figure(0, tempoText(*source), tempoLabel, c.text);
  QString keyLabel = tr("no pitch heard");
  if (heard && heard->key) {
    keyLabel = tr("%1 ct").arg(
        (heard->key->tuning.value >= 0 ? QStringLiteral("+") : QStringLiteral("−")) +
        QString::number(std::abs(heard->key->tuning.value), 'f', 0));
    if (source->corrections.key)
      keyLabel.prepend(tr("as you said, "));
    else if (heard->key->confidence < 0.5)
      keyLabel +=
          tr(", or %1").arg(QString::fromStdString(nameOf(heard->key->alternatives.front())));
  }
  figure(1, keyText(*source), keyLabel, c.text);
  const double lufs = heard ? heard->loudness.integratedLufs : -INFINITY;
  figure(2, lengthText(*source),
         std::isfinite(lufs)
             ? QString::number(lufs, 'f', 1).replace(QLatin1Char('-'), QChar(0x2212)) + tr(" LUFS")
             : tr("loudness not measured"),
         c.text);
  QString line = m_tapped;
  QColor ink = c.brass;
  if (line.isEmpty() && heard && !heard->faults.empty()) {
    line = QString::fromStdString(heard->faults.front().text);
    ink = c.coral;
  } else if (line.isEmpty() && heard) {
    line = tr("%1 heard").arg(counted(qint64(heard->onsets.size()), tr("hit"), tr("hits")));
    ink = c.quiet;
  }
  theme::drawText(p, QRectF(left, px(164), w, px(20)), Qt::AlignLeft | Qt::AlignVCenter, line,
                  theme::Type::Small, ink);
}

} // namespace tuvvo
