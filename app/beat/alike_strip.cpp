#include "beat/alike_strip.h"

#include "beat/ribbons_view.h"
#include "theme/theme.h"

#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace tuvvo {

using theme::px;

AlikeStrip::AlikeStrip(Panel& host, RibbonsView& ribbons, Transport& transport, QWidget* parent)
    : Panel(host, parent), m_ribbons(ribbons), m_loop(transport, Plays::Pattern) {
  setAccessibleName(tr("Bars alike"));
  setFixedHeight(px(22));
  m_soon.setSingleShot(true);
  m_soon.setInterval(40);
  connect(&m_soon, &QTimer::timeout, this, [this] {
    if (isVisible()) compare();
  });
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, [this] { m_soon.start(); });
  connect(&ribbons, &RibbonsView::viewChanged, this, qOverload<>(&QWidget::update));
  connect(&transport, &Transport::loopChanged, this, &AlikeStrip::compare);
  compare();
}

void AlikeStrip::showEvent(QShowEvent* event) {
  m_soon.start();
  QWidget::showEvent(event);
}

void AlikeStrip::compare() {
  m_compared = findPattern(project(), selection().pattern);
  m_bars = m_compared ? barsAlike(project(), *m_compared) : std::vector<BarSimilarity>{};
  QStringList words;
  for (const auto& bar : m_bars) words << letterOf(bar);
  if (const QString loop = m_loop.words(); !loop.isEmpty()) words << loop;
  setAccessibleDescription(words.join(QLatin1Char(' ')));
  update();
}

QString AlikeStrip::letterOf(const BarSimilarity& bar) {
  const int letter = bar.letter;
  QString name = letter < 26 ? QString(QChar('A' + letter))
                             : QChar('A' + letter / 26 - 1) + QString(QChar('A' + letter % 26));
  return bar.exact ? name : name + QStringLiteral("′");
}

QRectF AlikeStrip::boxOf(std::size_t bar) const {
  const double quarters = quartersOf(m_compared->meter);
  const double x = m_ribbons.xOf(double(bar) * quarters),
               end = m_ribbons.xOf(double(bar + 1) * quarters);
  return {x, double(px(2)), end - x - std::min(double(px(3)), (end - x) / 4),
          double(height() - px(6))};
}

QString AlikeStrip::tipOf(std::size_t at) const {
  const BarSimilarity& bar = m_bars[at];
  const QString loop = QLatin1Char('\n') +
                       tr("Press or drag over bars to have only those go round (Ctrl+[ from here, "
                          "Ctrl+] to here, Ctrl+\\ the last bar).");
  if (at == 0) return tr("Bar 1. Bars with the same letter are nearly the same.") + loop;
  if (bar.share <= 0) return tr("Bar %1 has nothing of the bars before it.").arg(at + 1) + loop;
  return tr("Bar %1 is %2 % like %3.")
             .arg(at + 1)
             .arg(bar.share * 100, 0, 'f', 0)
             .arg(bar.like == int(at) ? tr("the most alike before it")
                                      : tr("bar %1").arg(bar.like + 1)) +
         loop;
}

bool AlikeStrip::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    const auto* help = static_cast<QHelpEvent*>(event);
    for (std::size_t i = 0; m_compared && i < m_bars.size(); ++i)
      if (boxOf(i).contains(help->pos())) QToolTip::showText(help->globalPos(), tipOf(i), this);
    return true;
  }
  return Panel::event(event);
}

void AlikeStrip::mousePressEvent(QMouseEvent* event) {
  const double beat = m_ribbons.beatAt(event->position().x());
  if (m_compared && event->button() == Qt::LeftButton && beat >= m_ribbons.from() &&
      beat < inBeats(lengthOf(*m_compared)))
    m_loop.press(beat);
}

void AlikeStrip::mouseMoveEvent(QMouseEvent* event) {
  m_loop.move(m_ribbons.beatAt(event->position().x()));
}

void AlikeStrip::mouseReleaseEvent(QMouseEvent*) { m_loop.release(); }

/// What goes round, as a bracket over its bars.
void AlikeStrip::drawLoop(QPainter& p) {
  const auto loop = m_loop.loop();
  if (!loop) return;
  const double from = m_ribbons.xOf(inBeats(loop->from)),
               until = m_ribbons.xOf(inBeats(loop->until)) - px(3);
  p.save();
  p.setClipRect(QRectF(m_ribbons.xOf(m_ribbons.from()) - 2, 0, width(), height()));
  p.setPen(QPen(theme::colours().brass, 2.5));
  p.drawPolyline(
      QPolygonF({{from, double(height())}, {from, 1}, {until, 1}, {until, double(height())}}));
  p.restore();
}

void AlikeStrip::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  if (!m_compared) return;
  drawLoop(p);
  if (isEmpty(*m_compared)) return; // nothing is like nothing
  const double left = m_ribbons.xOf(m_ribbons.from());
  QString words = tr("bars alike");
  if (m_bars.size() > 1) words = tr("%1 % alike").arg(meanSimilarity(m_bars) * 100, 0, 'f', 0);
  if (const auto meeting = meetingOf(*m_compared); !meeting)
    words = tr("never meet");
  else if (*meeting > lengthOf(*m_compared))
    words = tr("meet after %1 bars")
                .arg(double(meeting->value) / double(barOf(m_compared->meter).value), 0, 'g', 4);
  theme::drawText(p, QRectF(px(12), 0, left - px(16), height()), Qt::AlignLeft | Qt::AlignVCenter,
                  words, theme::Type::Small, c.quiet);
  p.setClipRect(QRectF(left - 1, 0, width() - left + 1, height()));
  for (std::size_t i = 0; i < m_bars.size(); ++i) {
    const BarSimilarity& bar = m_bars[i];
    const QRectF whole = boxOf(i), box = whole.adjusted(0, 0, 0, -4);
    p.setPen(Qt::NoPen);
    p.setBrush(theme::mixed(c.slate, c.panel, bar.letter % 2 ? 0.22 : 0.5));
    p.drawRoundedRect(box, 4, 4);
    // What it has of the bar it is like, as a line along its foot.
    if (i > 0) {
      p.setBrush(c.slate);
      p.drawRect(QRectF(whole.left(), whole.bottom() - 2, whole.width() * bar.share, 2));
    }
    if (box.width() > px(44)) {
      theme::drawText(p, box.adjusted(px(8), 0, -px(6), 0), Qt::AlignLeft | Qt::AlignVCenter,
                      QString::number(i + 1), theme::Type::Small, c.text);
      const bool figure = box.width() > px(84) && i > 0 && !(bar.exact && bar.share >= 1);
      const QString text =
          figure ? tr("%1 %2 %").arg(letterOf(bar)).arg(bar.share * 100, 0, 'f', 0) : letterOf(bar);
      theme::drawText(p, box.adjusted(px(8), 0, -px(8), 0), Qt::AlignRight | Qt::AlignVCenter, text,
                      theme::Type::Small, c.text);
    } else if (box.width() > px(11)) {
      theme::drawText(p, box, Qt::AlignHCenter | Qt::AlignVCenter, letterOf(bar),
                      theme::Type::Small, c.text);
    }
  }
}

} // namespace tuvvo
