#include "cut/fit_ruler.h"
#include "session/music_text.h"

#include "model/edits.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kMostReach = 6; ///< semitones, where there is room for lines of their height
constexpr int kLine = 19;
} // namespace

FitRuler::FitRuler(Panel& host, QWidget* parent)
    : PicturePanel(host, parent, &theme::Palette::panel) {
  setAccessibleName(tr("Fit ruler"));
  setToolTip(
      tr("What a change of pitch gives: tempo and key for each semitone. Click or drag along "
         "it; up and down arrows move by a semitone, with Shift by ten cents; Home takes it "
         "back; Enter meets the beat's tempo by repitching."));
  setFocusPolicy(Qt::StrongFocus);
  setMinimumHeight(px(62));
}

const Source* FitRuler::source() const { return findSource(project(), selection().source); }

std::optional<FitQuestion> FitRuler::question(const Panel& panel) {
  const Source* source = findSource(panel.project(), panel.selection().source);
  if (!source) return std::nullopt;
  const FitQuestion q = fitQuestion(*source, panel.project().tempo, panel.project().key);
  if (!q.bpm && !q.key) return std::nullopt;
  return q;
}

int FitRuler::reach() const {
  return std::clamp(int(((height() - px(18)) / px(kLine) - 1) / 2), 1, kMostReach);
}

QRectF FitRuler::rowBox(int st) const {
  const double top = px(18), h = (height() - top) / (2 * reach() + 1);
  return QRectF(0, top + (reach() - st) * h, width(), h);
}

void FitRuler::apply(Panel& panel, FitMethod method, Semitones shift, const QString& merge) {
  const Source* source = findSource(panel.project(), panel.selection().source);
  if (!source) return;
  const double held = std::clamp(shift.value, -36.0, 36.0);
  panel.edit(tr("Bring %1 to the beat").arg(QString::fromStdString(source->name)),
             withSourceChanged(panel.project(), source->id,
                               [&](Source& s) {
                                 s.shape.method = method;
                                 s.shape.semitones = Semitones(std::round(held));
                                 s.shape.cents = Cents((held - std::round(held)) * 100);
                               }),
             merge);
  if (const Key* key = findKey(panel.project(), panel.selection().key);
      key && key->sound.source == panel.selection().source)
    panel.playKey(key->id, 0.9);
}

void FitRuler::take(double semitones, const QString& merge) {
  if (const Source* s = source()) apply(*this, s->shape.method, Semitones(semitones), merge);
}

void FitRuler::draw(QPainter& p) {
  const auto& c = theme::colours();
  const auto q = question(*this);
  const Source* s = source();
  if (!q || !s) {
    theme::drawText(p, QRectF(rect()).adjusted(px(6), px(6), 0, 0), Qt::AlignTop | Qt::AlignLeft,
                    s ? tr("No tempo and no key") : QString(), theme::Type::Small, c.quiet);
    return;
  }
  const FitMethod method = s->shape.method;
  if (hasFocus()) {
    p.setPen(QPen(theme::markOf(c.brass, c.panel, 0.5), 1));
    p.setBrush(Qt::NoBrush);
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  }
  const auto head = [&](double x, double w, const QString& text, Qt::Alignment side) {
    theme::drawText(p, QRectF(x, 0, w, px(16)), side | Qt::AlignVCenter, text, theme::Type::Small,
                    c.quiet);
  };
  head(px(4), px(32), tr("st"), Qt::AlignRight);
  head(px(58), px(52), tr("BPM"), Qt::AlignRight);
  head(px(120), px(40), tr("key"), Qt::AlignLeft);
  const double now = semitonesOf(s->shape.pitch()).value;
  for (int st = reach(); st >= -reach(); --st) {
    const QRectF box = rowBox(st);
    const FitRow row = fitRow(*q, method, Semitones(st));
    const bool agrees = row.keyDistance >= 0 && row.keyDistance <= 1,
               meets = q->bpm && std::abs(row.bpmErrorPercent) < 1.5;
    const bool here = std::abs(now - st) < 0.5;
    if (here) {
      p.setPen(QPen(c.brass, 1));
      p.setBrush(theme::mixed(c.brass, c.panel, 0.16));
      p.drawRoundedRect(box.adjusted(0.5, 0.5, -0.5, -0.5), 5, 5);
    }
    const QString shift = st == 0  ? QStringLiteral("0")
                          : st > 0 ? QStringLiteral("+%1").arg(st)
                                   : QStringLiteral("−%1").arg(-st);
    theme::drawText(p, QRectF(box.left() + px(4), box.top(), px(32), box.height()),
                    Qt::AlignRight | Qt::AlignVCenter, shift, theme::Type::Small, c.text);
    const double tick = st % 12 == 0 ? px(12) : st % 5 == 0 ? px(8) : px(5);
    p.fillRect(QRectF(box.left() + px(42), box.center().y(), tick, 1), c.quiet);
    theme::drawText(p, QRectF(box.left() + px(58), box.top(), px(52), box.height()),
                    Qt::AlignRight | Qt::AlignVCenter,
                    q->bpm ? QString::number(row.resultBpm.value, 'f', 1) : QStringLiteral("–"),
                    theme::Type::Small, meets && !here ? c.mint : c.text);
    theme::drawText(p, QRectF(box.left() + px(120), box.top(), px(40), box.height()),
                    Qt::AlignLeft | Qt::AlignVCenter,
                    row.resultKey ? musicText(nameOf(*row.resultKey)) : QStringLiteral("–"),
                    theme::Type::Small, agrees && !here ? c.mint : c.text);
    if (agrees) { // a flag where the key agrees; filled where the tempo meets as well
      p.setPen(QPen(c.mint, 1.4));
      p.setBrush(meets || row.keyDistance == 0 ? QBrush(c.mint) : QBrush(Qt::NoBrush));
      const QPointF tip(box.right() - px(16), box.center().y());
      p.drawPolygon(QPolygonF({tip, tip + QPointF(px(8), -px(5)), tip + QPointF(px(8), px(5))}));
    }
  }
}

void FitRuler::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || !question(*this)) return;
  m_dragging = true;
  mouseMoveEvent(event);
}

void FitRuler::mouseMoveEvent(QMouseEvent* event) {
  if (!m_dragging) return;
  // Whole semitones; with Shift the place between two lines as well.
  const QRectF zero = rowBox(0);
  const double place = (zero.center().y() - event->position().y()) / zero.height();
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  const double wanted = std::clamp(fine ? std::round(place * 20) / 20 : std::round(place),
                                   -double(reach()), double(reach()));
  if (const Source* s = source();
      s && std::abs(semitonesOf(s->shape.pitch()).value - wanted) > 1e-6)
    take(wanted, QStringLiteral("fit ruler"));
}

void FitRuler::mouseReleaseEvent(QMouseEvent*) {
  if (m_dragging) settle();
  m_dragging = false;
}

void FitRuler::keyPressEvent(QKeyEvent* event) {
  const Source* s = source();
  const auto q = question(*this);
  if (!s || !q) return QWidget::keyPressEvent(event);
  const double now = semitonesOf(s->shape.pitch()).value;
  const bool fine = event->modifiers() & Qt::ShiftModifier;
  switch (event->key()) {
  case Qt::Key_Up:
    take(fine ? now + 0.1 : std::floor(now + 1.0001));
    break;
  case Qt::Key_Down:
    take(fine ? now - 0.1 : std::ceil(now - 1.0001));
    break;
  case Qt::Key_Home:
    take(0);
    break;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    if (q->bpm) apply(*this, FitMethod::Repitch, repitchToTempo(*q->bpm, q->toBpm));
    break;
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tuvvo
