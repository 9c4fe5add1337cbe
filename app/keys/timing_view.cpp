#include "keys/timing_view.h"

#include "base/convert.h"
#include "theme/theme.h"
#include "words/timing_words.h"

#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {

QString signedMs(double ms, int decimals = 0) {
  const QString figure = QString::number(std::abs(ms), 'f', decimals);
  if (figure.toDouble() == 0) return TimingView::tr("0 ms");
  return (ms > 0 ? QStringLiteral("+") : QStringLiteral("\u2212")) +
         TimingView::tr("%1 ms").arg(figure);
}

} // namespace

TimingView::TimingView(Panel& host, Recorder& recorder, QWidget* parent)
    : Panel(host, parent), m_recorder(recorder) {
  setAccessibleName(tr("Timing of the take"));
  setFocusPolicy(Qt::TabFocus);
  setMinimumHeight(px(120));
  connect(&recorder, &Recorder::takeChanged, this, [this] {
    const auto& parts = m_recorder.timing().parts;
    if (std::none_of(parts.begin(), parts.end(), [&](const auto& p) { return p.part == m_part; }))
      choose(parts.empty() ? 0 : parts.front().part);
    setAccessibleDescription(QString::fromStdString(sentenceOf(project(), m_recorder.timing())));
    update();
  });
  connect(this, &Panel::changed, this, qOverload<>(&QWidget::update));
}

QSize TimingView::sizeHint() const { return {px(600), px(260)}; }

void TimingView::choose(Id part) {
  m_part = part;
  emit chosen(part);
  update();
}

QRectF TimingView::bandOf(std::size_t index) const {
  const double count = std::max<double>(1, double(m_recorder.timing().parts.size()));
  const double height = std::min((this->height() - px(22)) / count, double(px(130)));
  return {0, height * double(index), double(width()), height};
}

QRectF TimingView::fieldOf(const QRectF& band) const {
  return band.adjusted(px(116), px(4), -px(190), -px(4));
}

TimingView::Axis TimingView::axis() const {
  Axis axis;
  double first = 1e9, last = -1e9, most = 20;
  for (const auto& part : m_recorder.timing().parts)
    for (const auto& hit : part.hits) {
      first = std::min(first, hit.bar);
      last = std::max(last, hit.bar);
      most = std::max(most, std::abs(hit.offGrid.value));
    }
  axis.firstBar = std::floor(first + 0.03);
  axis.bars = std::max(1.0, std::ceil(last - axis.firstBar + 1e-6));
  axis.mostMs = std::min(120.0, most * 1.15);
  return axis;
}

QPointF TimingView::placeOf(const TimedHit& hit, const QRectF& f, const Axis& axis) const {
  return {f.left() + (hit.bar - axis.firstBar) / axis.bars * f.width(),
          f.center().y() +
              std::clamp(hit.offGrid.value / axis.mostMs, -1.0, 1.0) * f.height() * 0.48};
}

void TimingView::drawBand(QPainter& p, const PartTiming& part, const QRectF& band,
                          const Axis& axis) {
  const auto& c = theme::colours();
  const Part* of = findPart(project(), part.part);
  if (part.part == m_part) {
    p.setPen(Qt::NoPen);
    p.setBrush(c.raised);
    p.drawRoundedRect(band.adjusted(1, 1, -1, -1), 6, 6);
  }
  const QColor tone = theme::ofRow(of ? of->role : Row::Body);
  const QRectF f = fieldOf(band);
  const double scale = f.height() * 0.48 / axis.mostMs;
  // The feel lies where the grid's and the feel's means differ.
  const double feel = part.grid.mean.value - part.feel.mean.value;
  p.setPen(Qt::NoPen);
  p.setBrush(theme::mixed(tone, part.part == m_part ? c.raised : c.panel, 0.22));
  const double spread = std::max(1.5, part.feel.spread.value * scale);
  p.drawRect(QRectF(f.left(), f.center().y() + feel * scale - spread, f.width(), 2 * spread));
  p.setPen(QPen(c.quiet, 1));
  p.drawLine(QPointF(f.left(), f.center().y()), QPointF(f.right(), f.center().y()));
  p.setPen(QPen(c.line, 1));
  for (int bar = 0; bar <= int(axis.bars); ++bar) {
    const double x = f.left() + bar / axis.bars * f.width();
    p.drawLine(QPointF(x, f.top()), QPointF(x, f.bottom()));
  }
  double middle = 0;
  for (const auto& hit : part.hits) middle += hit.bar / double(part.hits.size());
  if (part.grid.hits >= 4) {
    const auto y = [&](double bar) {
      const double off = part.grid.mean.value + part.grid.trend.value * (bar - middle);
      return f.center().y() + std::clamp(off * scale, -f.height() * 0.48, f.height() * 0.48);
    };
    p.setPen(QPen(c.brass, 1.5, Qt::DashLine));
    p.drawLine(QPointF(f.left(), y(axis.firstBar)),
               QPointF(f.right(), y(axis.firstBar + axis.bars)));
  }
  p.setPen(Qt::NoPen);
  for (const auto& hit : part.hits) {
    p.setBrush(theme::markOf(tone, part.part == m_part ? c.raised : c.panel, hit.velocity));
    const double r = px(2) + px(3) * hit.velocity;
    p.drawEllipse(placeOf(hit, f, axis), r, r);
  }
  theme::drawText(p, QRectF(band.left() + px(12), band.top(), px(100), band.height()),
                  Qt::AlignVCenter | Qt::AlignLeft,
                  of ? QString::fromStdString(of->name) : QString(), theme::Type::Strong, tone);
  const QRectF figures(f.right() + px(12), band.top(), px(176), band.height());
  const double line = px(16), top = figures.center().y() - line * 1.5;
  const auto say = [&](int at, const QString& text, QColor ink) {
    theme::drawText(p, QRectF(figures.left(), top + line * at, figures.width(), line),
                    Qt::AlignVCenter | Qt::AlignLeft, text, theme::Type::Small, ink);
  };
  say(0, tr("grid %1, feel %2").arg(signedMs(part.grid.mean.value), signedMs(part.feel.mean.value)),
      c.text);
  say(1, tr("spread %1 ms").arg(part.feel.spread.value, 0, 'f', 1), c.quiet);
  say(2, tr("%1 a bar").arg(signedMs(part.feel.trend.value, 1)), c.quiet);
}

void TimingView::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(rect(), 8, 8);
  if (hasFocus()) {
    p.setPen(QPen(c.text, 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(rect().adjusted(1, 1, -1, -1), 8, 8);
  }
  const auto& parts = m_recorder.timing().parts;
  if (parts.empty()) {
    theme::drawText(p, rect(), Qt::AlignCenter,
                    tr("Record a take (Ctrl+R), or play and catch it: how you played stands here."),
                    theme::Type::Body, c.quiet);
    return;
  }
  const Axis all = axis();
  for (std::size_t i = 0; i < parts.size(); ++i) drawBand(p, parts[i], bandOf(i), all);
  const QRectF last = fieldOf(bandOf(parts.size() - 1));
  for (int bar = 0; bar < int(all.bars); ++bar) {
    const double x = last.left() + bar / all.bars * last.width();
    theme::drawText(p, QRectF(x, last.bottom() + px(4), last.width() / all.bars, px(16)),
                    Qt::AlignLeft | Qt::AlignVCenter, QString::number(int(all.firstBar) + bar + 1),
                    theme::Type::Small, c.quiet);
  }
  theme::drawText(p, QRectF(px(12), last.bottom() + px(4), px(100), px(16)),
                  Qt::AlignLeft | Qt::AlignVCenter, tr("bars of the take"), theme::Type::Small,
                  c.quiet);
  theme::drawText(p, QRectF(last.right() + px(12), last.bottom() + px(4), px(176), px(16)),
                  Qt::AlignLeft | Qt::AlignVCenter,
                  tr("height: %1 ms early to late").arg(all.mostMs, 0, 'f', 0), theme::Type::Small,
                  c.quiet);
}

void TimingView::mousePressEvent(QMouseEvent* event) {
  const auto& parts = m_recorder.timing().parts;
  for (std::size_t i = 0; i < parts.size(); ++i)
    if (bandOf(i).contains(event->position())) choose(parts[i].part);
}

void TimingView::keyPressEvent(QKeyEvent* event) {
  const auto& parts = m_recorder.timing().parts;
  const int step = event->key() == Qt::Key_Down ? 1 : event->key() == Qt::Key_Up ? -1 : 0;
  if (step == 0 || parts.empty()) return QWidget::keyPressEvent(event);
  int at = 0;
  for (std::size_t i = 0; i < parts.size(); ++i)
    if (parts[i].part == m_part) at = int(i);
  choose(parts[std::size_t(std::clamp(at + step, 0, int(parts.size()) - 1))].part);
}

bool TimingView::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride) { // before the stage's own arrows
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Up || key == Qt::Key_Down) event->accept();
  }
  if (event->type() != QEvent::ToolTip) return Panel::event(event);
  const auto* help = static_cast<QHelpEvent*>(event);
  const auto& parts = m_recorder.timing().parts;
  const Axis all = axis();
  QString text = tr("Above the line: early. Below: late. Click a part to quantise it.");
  for (std::size_t i = 0; i < parts.size(); ++i)
    for (const auto& hit : parts[i].hits)
      if (QLineF(placeOf(hit, fieldOf(bandOf(i)), all), help->pos()).length() < px(7))
        text = tr("%1 off the grid, %2 off the feel, velocity %3")
                   .arg(signedMs(hit.offGrid.value), signedMs(hit.offFeel.value))
                   .arg(toNearest<int>(hit.velocity * 100));
  QToolTip::showText(help->globalPos(), text, this);
  return true;
}

} // namespace tuvvo
