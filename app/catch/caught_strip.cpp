#include "catch/caught_strip.h"

#include "session/auditions.h"
#include "session/catch_service.h"
#include "session/peaks_cache.h"
#include "theme/theme.h"
#include "widgets/small_wave.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <algorithm>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kLitMs = 1500;
constexpr std::size_t kMost = 32;
} // namespace

CaughtStrip::CaughtStrip(Panel& host, CatchService& catching, PeaksCache& peaks,
                         Auditions& auditions, QWidget* parent)
    : Panel(host, parent), m_catching(catching), m_peaks(peaks), m_auditions(auditions) {
  setAccessibleName(tr("Caught sounds"));
  setToolTip(tr("What was caught, the newest first. Click a sound to hear it as it is; Left and "
                "Right choose, Enter plays."));
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(px(100));
  m_lit.setSingleShot(true);
  connect(this, &Panel::changed, this, &CaughtStrip::notice);
  connect(&peaks, &PeaksCache::arrived, this, qOverload<>(&QWidget::update));
  connect(&m_lit, &QTimer::timeout, this, qOverload<>(&QWidget::update));
}

std::vector<SourcePtr> CaughtStrip::shown() const {
  const std::string folder = m_catching.caughtFolder().string();
  std::vector<SourcePtr> out;
  for (auto source = project().sources.rbegin(); source != project().sources.rend(); ++source)
    if ((*source)->origin.starts_with(folder) && out.size() < kMost) out.push_back(*source);
  return out;
}

QRectF CaughtStrip::cardOf(std::size_t place) const {
  const double wide = px(172), high = px(92), gap = px(8);
  const auto across = std::size_t(std::max(1.0, std::floor((width() + gap) / (wide + gap))));
  const std::size_t row = place / across;
  return {double(place % across) * (wide + gap), double(row) * (high + gap), wide, high};
}

void CaughtStrip::notice() {
  const auto all = shown();
  const Id newest = all.empty() ? 0 : all.front()->id;
  if (newest > m_newest && m_newest != 0) m_lit.start(kLitMs);
  m_newest = newest;
  m_chosen = std::min(m_chosen, all.empty() ? 0 : all.size() - 1);
  update();
}

void CaughtStrip::hear(std::size_t place) {
  const auto all = shown();
  if (place >= all.size()) return;
  m_chosen = place;
  m_auditions.playAsItIs(all[place]);
  update();
}

void CaughtStrip::drawCard(QPainter& p, std::size_t place, const Source& source, bool fresh) {
  const auto& c = theme::colours();
  const QRectF box = cardOf(place);
  const bool chosen = place == m_chosen && hasFocus();
  p.setPen(QPen(fresh || chosen ? c.brass : c.line, fresh || chosen ? 1.8 : 1));
  p.setBrush(c.panel);
  p.drawRoundedRect(box.adjusted(1, 1, -1, -1), 7, 7);
  const QRectF inside = box.adjusted(px(10), px(7), -px(10), -px(7));
  if (source.sound)
    drawSmallWave(p, QRectF(inside.left(), inside.top(), inside.width(), px(42)), *source.sound,
                  m_peaks.peaksOf(source), {Frames(0), source.sound->frames()},
                  fresh ? c.brass : c.slate);
  const QRectF name(inside.left(), inside.bottom() - px(32), inside.width(), px(16));
  theme::drawText(p, name, Qt::AlignLeft | Qt::AlignVCenter, QString::fromStdString(source.name),
                  theme::Type::Body, c.text);
  if (source.sound)
    theme::drawText(p, name.translated(0, px(16)), Qt::AlignLeft | Qt::AlignVCenter,
                    tr("%1 s").arg(source.sound->duration().value, 0, 'f', 2), theme::Type::Small,
                    c.quiet);
}

void CaughtStrip::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const auto all = shown();
  if (all.empty()) {
    p.setPen(QPen(c.line, 1, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(1, 1, -1, -1), 8, 8);
    theme::drawText(p, rect(), Qt::AlignCenter,
                    tr("What you catch stands here, each sound with its wave."), theme::Type::Body,
                    c.quiet);
    return;
  }
  for (std::size_t i = 0; i < all.size() && cardOf(i).bottom() <= height(); ++i)
    drawCard(p, i, *all[i], i == 0 && m_lit.isActive());
}

void CaughtStrip::mousePressEvent(QMouseEvent* event) {
  for (std::size_t i = 0; i < shown().size(); ++i)
    if (cardOf(i).contains(event->position())) hear(i);
}

bool CaughtStrip::event(QEvent* event) {
  if (event->type() == QEvent::ShortcutOverride) { // before the stage's own arrows
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Left || key == Qt::Key_Right) {
      event->accept();
      return true;
    }
  }
  return Panel::event(event);
}

void CaughtStrip::keyPressEvent(QKeyEvent* event) {
  const std::size_t count = shown().size();
  const int key = event->key();
  if (count == 0) return Panel::keyPressEvent(event);
  if (key == Qt::Key_Left)
    m_chosen -= std::min<std::size_t>(m_chosen, 1);
  else if (key == Qt::Key_Right)
    m_chosen = std::min(m_chosen + 1, count - 1);
  else if (key == Qt::Key_Return || key == Qt::Key_Enter)
    hear(m_chosen);
  else
    return Panel::keyPressEvent(event);
  update();
}

} // namespace tuvvo
