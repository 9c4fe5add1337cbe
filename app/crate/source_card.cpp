#include "crate/source_card.h"
#include "session/music_text.h"

#include "base/convert.h"
#include "crate/tempo_picture.h"
#include "listen/chords.h"
#include "listen/content.h"
#include "model/resolved_source.h"
#include "parts/source_text.h"
#include "theme/theme.h"
#include "widgets/combo.h"
#include "widgets/small_wave.h"
#include "words/fault_words.h"

#include <QHelpEvent>
#include <QToolTip>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

constexpr double kStandsOut = 1.1; // by so much more than the mean (common practice, no source)

/// Bar lines with numbers over the small waveform, as many as there is room for.
void drawBars(QPainter& p, const QRectF& wave, const Source& source, double scale) {
  const auto& c = theme::colours();
  const auto bars = ResolvedSource(source).bars();
  if (bars.empty()) return;
  int every = 1;
  while (wave.width() * every / double(bars.size()) < px(22)) every *= 2;
  for (std::size_t i = 0; i < bars.size(); i += std::size_t(every)) {
    const double x = wave.left() + bars[i].value * scale;
    p.fillRect(QRectF(x, wave.top(), 1, wave.height()), theme::mixed(c.line, c.panel, 0.9));
    theme::drawText(p, QRectF(x + 3, wave.top() - px(12), px(30), px(12)),
                    Qt::AlignLeft | Qt::AlignVCenter, QString::number(i + 1), theme::Type::Small,
                    c.quiet);
  }
}

/// A band of named stretches, each as wide as it sounds; a plain block where the name does not fit.
/// Whether a band has room for a name.
auto roomIn(const QRectF& box) {
  return [wide = box.width(), metrics = QFontMetricsF(theme::font(theme::Type::Small))](
             const QString& name) { return metrics.horizontalAdvance(name) + 4 < wide; };
}

void drawBand(QPainter& p, const QRectF& box, const QString& name, QColor ink, bool strong) {
  const auto& c = theme::colours();
  p.setPen(Qt::NoPen);
  p.setBrush(theme::mixed(ink, c.panel, strong ? 0.3 : 0.2));
  p.drawRoundedRect(box, 2, 2);
  if (roomIn(box)(name)) theme::drawText(p, box, Qt::AlignCenter, name, theme::Type::Small, c.text);
}

/// What is in a section, in as many words as there is room for.
QString sectionText(const SectionHeard& section, double room) {
  QString name = QString::fromStdString(section.label);
  if (section.content == Content{}) return name; // heard before it was listened for
  const ContentWords is = wordsOf(section.content);
  QStringList words;
  if (is.busy) words << SourceCard::tr("busy");
  if (is.calm) words << SourceCard::tr("calm");
  if (is.drums) words << SourceCard::tr("drums");
  if (is.lows) words << SourceCard::tr("lows");
  if (!is.drums) words << SourceCard::tr("no drums"); // what is not there after what is
  if (!is.tones) words << SourceCard::tr("no tones");
  if (!is.mids) words << SourceCard::tr("no mids");
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  while (!words.isEmpty()) {
    QString text = name + QStringLiteral(": ") + words.join(QStringLiteral(", "));
    if (metrics.horizontalAdvance(text) + 8 < room) return text;
    words.removeLast();
  }
  return name;
}

/// The section in which beats differ most from their neighbours; empty where none stands out.
QString mostMotion(const ResolvedSource& source) {
  const auto sections = source.sections();
  const auto bars = source.bars();
  const SectionHeard* most = nullptr;
  double mean = 0;
  for (const auto& section : sections) {
    mean += section.content.changes / double(sections.size());
    if (!most || section.content.changes > most->content.changes) most = &section;
  }
  if (sections.size() < 2 || most->content.changes < kStandsOut * mean || mean <= 0) return {};
  const auto bar = std::upper_bound(bars.begin(), bars.end(), most->start + Seconds(0.05));
  return SourceCard::tr("most motion in %1, from bar %2")
      .arg(QString::fromStdString(most->label))
      .arg(bar - bars.begin());
}

QString signedFigure(double v, int decimals = 0) {
  return (v >= 0 ? QStringLiteral("+") : QStringLiteral("−")) +
         QString::number(std::abs(v), 'f', decimals);
}

QString tempoLabel(const Source& source) {
  const auto& heard = source.heard;
  if (source.corrections.tempo) return SourceCard::tr("as you said");
  if (!heard || !heard->tempo) return heard ? SourceCard::tr("no pulse heard") : QString();
  if (heard->loop && heard->loop->exact)
    return SourceCard::tr("exact, %1")
        .arg(counted(heard->loop->bars, SourceCard::tr("bar"), SourceCard::tr("bars")));
  if (!heard->tempo->steady)
    return SourceCard::tr("drifts ±%1 ms").arg(toWhole<int>(heard->tempo->drift.value));
  QString text =
      SourceCard::tr("steady, %1 % sure").arg(toWhole<int>(heard->tempo->confidence * 100));
  if (heard->meter != 4 || heard->compound)
    text += QStringLiteral(", ") + QString::fromStdString(meterName(*heard));
  return text;
}

QString keyLabel(const Source& source) {
  const auto& heard = source.heard;
  if (!heard) return {};
  if (!heard->key) {
    if (heard->root.value > 0)
      return SourceCard::tr("rings at %1 Hz").arg(heard->root.value, 0, 'f', 1);
    return source.corrections.key ? SourceCard::tr("as you said")
                                  : SourceCard::tr("no pitch to speak of");
  }
  const KeyHeard& key = *heard->key;
  QString text = SourceCard::tr("%1 ct").arg(signedFigure(key.tuning.value));
  if (source.corrections.key) return SourceCard::tr("as you said, ") + text;
  if (!key.mode.empty()) text.prepend(QString::fromStdString(key.mode) + QStringLiteral(", "));
  if (key.confidence < 0.5 && !key.alternatives.empty())
    text += SourceCard::tr(", or %1").arg(musicText(nameOf(key.alternatives.front())));
  return text;
}

} // namespace

SourceCard::SourceCard(Panel& host, PeaksCache& peaks, Auditions& auditions, QWidget* parent)
    : PicturePanel(host, parent), m_peaks(peaks), m_auditions(auditions) {
  setAccessibleName(tr("Source card"));
  setMinimumHeight(px(222));
  setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
  connect(&auditions, &Auditions::changed, this, &SourceCard::drawAnew);
  connect(&peaks, &PeaksCache::arrived, this, &SourceCard::drawAnew);
}

QSize SourceCard::sizeHint() const { return {px(330), px(222)}; }

void SourceCard::setSubject(const Subject& subject) {
  const bool other = !(subject.row == m_subject.row);
  m_subject = subject;
  if (other) m_tapped.clear();
  setAccessibleDescription(subject.any()
                               ? QStringLiteral("%1, %2, %3")
                                     .arg(QString::fromStdString(subject.source->name),
                                          tempoText(*subject.source), keyText(*subject.source))
                               : QString());
  drawAnew();
}

void SourceCard::paintWave(QPainter& p, const QRectF& box) {
  const auto& c = theme::colours();
  const Source& source = *m_subject.source;
  const double duration = source.sound   ? source.sound->duration().value
                          : source.heard ? source.heard->duration.value
                                         : 0;
  if (duration <= 0) return;
  const double scale = box.width() / duration;
  const QRectF wave(box.left(), box.top() + px(10), box.width(), px(44)); // numbers above it
  drawBars(p, wave, source, scale);
  const QColor ink = theme::markOf(c.text, c.panel, 0.65);
  if (source.sound)
    drawSmallWave(p, wave, *source.sound, m_peaks.peaksOf(source),
                  {Frames(0), source.sound->frames()}, ink);
  else
    drawSmallWave(p, wave, m_subject.picture, ink);
  if (!source.heard) return;
  const QRectF chords(box.left(), wave.bottom() + px(3), box.width(), px(15));
  for (const auto& chord : overAnyBass(source.heard->chords)) {
    const QRectF band(chords.left() + chord.start.value * scale, chords.top(),
                      std::max(1.0, (chord.end - chord.start).value * scale - 1), chords.height());
    drawBand(p, band, chordText(chord, keyOf(source), roomIn(band)), c.lilac, false);
  }
  const QRectF sections(box.left(), chords.bottom() + px(2), box.width(), px(13));
  const auto all = ResolvedSource(source).sections();
  if (all.size() > 1)
    for (const auto& section : all) {
      const double room = std::max(1.0, (section.end - section.start).value * scale - 1);
      const QRectF band(sections.left() + section.start.value * scale, sections.top(), room,
                        sections.height());
      drawBand(p, band, sectionText(section, room), c.slate, section.label == "A");
      if (!m_asked.any() || !m_asked.agrees(section.content)) continue;
      p.setPen(QPen(c.brass, px(1.5)));
      p.setBrush(Qt::NoBrush);
      p.drawRoundedRect(band.adjusted(1, 1, -1, -1), 2, 2);
    }
}

void SourceCard::paintFigures(QPainter& p, const QRectF& box) {
  const auto& c = theme::colours();
  const Source& source = *m_subject.source;
  const auto& heard = source.heard;
  const bool picture = heard && heard->tempo && !heard->tempo->curve.empty();
  // Tempo with its picture beside it, key, loudness.
  const double wide = box.width();
  const std::array<double, 5> edges =
      picture ? std::array{0.0, 0.26, 0.48, 0.74, 1.0} : std::array{0.0, 0.33, 0.33, 0.66, 1.0};
  const auto column = [&](std::size_t at, const QString& value, const QString& label) {
    const QRectF place(box.left() + wide * edges[at], box.top(),
                       wide * (edges[at + 1] - edges[at]) - px(6), px(26));
    theme::drawText(p, place, Qt::AlignLeft | Qt::AlignVCenter, value, theme::Type::Title, c.text);
    theme::drawText(p, place.translated(0, px(22)), Qt::AlignLeft | Qt::AlignVCenter, label,
                    theme::Type::Small, c.quiet);
  };
  column(0, tempoText(source), tempoLabel(source));
  if (picture)
    drawTempoPicture(p,
                     QRectF(box.left() + wide * edges[1], box.top() + px(2),
                            wide * (edges[2] - edges[1]) - px(14), px(44)),
                     source);
  column(2, keyText(source), keyLabel(source));
  const double lufs = heard ? heard->loudness.integratedLufs : -INFINITY;
  column(3, heard ? lengthText(heard->duration) : QString(),
         std::isfinite(lufs)
             ? QString::number(lufs, 'f', 1).replace(QLatin1Char('-'), QChar(0x2212)) + tr(" LUFS")
             : tr("loudness not measured"));
}

QString SourceCard::lastLine(QColor& ink) const {
  const auto& c = theme::colours();
  const Source& source = *m_subject.source;
  ink = c.brass;
  if (!m_tapped.isEmpty()) return m_tapped;
  const auto& now = m_auditions.heard();
  if (now.sounding && now.hash == source.hash && now.name == source.name)
    return now.heard.empty()
               ? tr("Heard %1").arg(QString::fromStdString(now.how))
               : tr("Heard %1: %2")
                     .arg(QString::fromStdString(now.how), QString::fromStdString(now.heard));
  if (m_subject.missing) {
    ink = c.coral;
    return tr("Its file is missing. It is known again wherever it turns up in a watched folder.");
  }
  if (!source.heard) {
    ink = c.quiet;
    return tr("Waiting to be heard");
  }
  const auto& faults = source.heard->faults;
  if (!faults.empty()) {
    ink = c.coral;
    const QString first = QString::fromStdString(sentenceOf(faults.front()));
    return faults.size() == 1 ? first : tr("%1 And %2 more.").arg(first).arg(faults.size() - 1);
  }
  ink = c.quiet;
  QStringList parts{
      tr("%1 heard").arg(counted(qint64(source.heard->onsets.size()), tr("hit"), tr("hits")))};
  if (const QString motion = mostMotion(ResolvedSource(source)); !motion.isEmpty()) parts << motion;
  if (!m_subject.usedIn.empty())
    parts << tr("used in %1").arg(QString::fromStdString(m_subject.usedIn.front())) +
                 (m_subject.usedIn.size() > 1 ? tr(" and %1 more").arg(m_subject.usedIn.size() - 1)
                                              : QString());
  if (m_subject.copies > 1) parts << tr("%1 copies of it").arg(m_subject.copies);
  return parts.join(QStringLiteral(" · "));
}

void SourceCard::draw(QPainter& p) {
  const auto& c = theme::colours();
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(rect(), 8, 8);
  const double left = px(14), w = width() - 2 * left;
  if (!m_subject.any()) {
    theme::drawText(p, QRectF(rect()).adjusted(left, 0, -left, 0), Qt::AlignCenter,
                    tr("Drop a sound anywhere to begin"), theme::Type::Strong, c.quiet);
    return;
  }
  const Source& source = *m_subject.source;
  const QRectF head(left, px(9), w, px(22));
  QString kind;
  if (const auto heard = kindOf(source)) {
    kind = kindText(*heard);
    if (source.corrections.kind)
      kind += tr(", as you said");
    else if (source.heard->kind.confidence < 0.7)
      kind += tr(", perhaps");
  }
  theme::drawText(p, head.adjusted(0, 0, -px(130), 0), Qt::AlignLeft | Qt::AlignVCenter,
                  QString::fromStdString(source.name), theme::Type::Title, c.text);
  theme::drawText(p, head, Qt::AlignRight | Qt::AlignVCenter, kind, theme::Type::Small, c.quiet);
  paintWave(p, QRectF(left, px(34), w, px(90)));
  paintFigures(p, QRectF(left, px(130), w, px(50)));
  QColor ink = c.quiet;
  const QString line = lastLine(ink);
  theme::drawText(p, QRectF(left, height() - px(30), w, px(20)), Qt::AlignLeft | Qt::AlignVCenter,
                  line, theme::Type::Small, ink);
}

bool SourceCard::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip && m_subject.heard()) {
    QStringList lines;
    for (const auto& fault : m_subject.source->heard->faults)
      lines << QString::fromStdString(sentenceOf(fault));
    const auto& loudness = m_subject.source->heard->loudness;
    lines
        << tr("True peak %1 dBTP, loudest three seconds %2 LUFS, range %3 LU, noise floor %4 dBFS")
               .arg(loudness.truePeakDbtp, 0, 'f', 1)
               .arg(loudness.shortTermLufs, 0, 'f', 1)
               .arg(loudness.rangeLu, 0, 'f', 1)
               .arg(loudness.noiseFloorDbfs, 0, 'f', 0);
    for (const auto& path : m_subject.paths) lines << QString::fromStdString(path);
    QToolTip::showText(static_cast<QHelpEvent*>(event)->globalPos(), lines.join(QLatin1Char('\n')),
                       this);
    return true;
  }
  return PicturePanel::event(event);
}

} // namespace tuvvo
