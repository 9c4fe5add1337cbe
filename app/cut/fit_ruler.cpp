#include "cut/fit_ruler.h"

#include "model/edits.h"
#include "theme/theme.h"

#include <QKeyEvent>
#include <QMouseEvent>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kReach = 6;
}

FitRuler::FitRuler(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  setAccessibleName(tr("Fit ruler"));
  setToolTip(tr("What repitching this source gives: tempo and key for each semitone. Click a line "
                "to repitch all its cuts; up and down arrows move by a semitone; Enter takes the "
                "line at the bottom, which meets the beat."));
  setFocusPolicy(Qt::StrongFocus);
  setFixedWidth(px(196));
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, qOverload<>(&QWidget::update));
}

std::optional<FitQuestion> FitRuler::question() const {
  const Source* source = findSource(m_session.project(), m_session.selection().source);
  if (!source) return std::nullopt;
  const FitQuestion q = fitQuestion(*source, m_session.project().tempo, m_session.project().key);
  if (!q.bpm && !q.key) return std::nullopt;
  return q;
}

/// The repitch of the source's cuts, if they all have the same.
std::optional<double> FitRuler::currentShift() const {
  std::optional<double> shift;
  for (const auto& key : m_session.project().keys) {
    if (key.sound.source != m_session.selection().source || key.sound.cut == 0) continue;
    const double own = key.tune.value + key.fine.value / 100;
    if (shift && std::abs(*shift - own) > 1e-6) return std::nullopt;
    shift = own;
  }
  return shift;
}

QRectF FitRuler::bestBox() const {
  return QRectF(px(8), height() - px(48), width() - px(16), px(40));
}

QRectF FitRuler::rowBox(int st) const {
  const double top = px(44), h = (bestBox().top() - px(6) - top) / (2 * kReach + 1);
  return QRectF(px(8), top + (kReach - st) * h, width() - px(16), h);
}

void FitRuler::apply(Semitones shift) {
  const Id source = m_session.selection().source;
  Project next = m_session.project();
  int changed = 0;
  for (const auto& key : m_session.project().keys)
    if (key.sound.source == source && key.sound.cut != 0) {
      next = withKeyChanged(std::move(next), key.id, [&](Key& k) {
        k.tune = Semitones(std::round(shift.value));
        k.fine = Cents((shift.value - std::round(shift.value)) * 100);
      });
      ++changed;
    }
  if (changed == 0) {
    emit m_session.message(tr("Cut the source first; its cuts are what is repitched."), true);
    return;
  }
  m_session.edit(tr("Repitch %1 st").arg(shift.value, 0, 'f', 2), std::move(next));
  if (const Key* key = findKey(m_session.project(), m_session.selection().key);
      key && key->sound.source == source)
    m_session.strike(key->id, 0.9);
}

void FitRuler::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(hasFocus() ? QPen(theme::mixed(c.brass, c.panel, 0.7), 1) : QPen(Qt::NoPen));
  p.setBrush(c.panel);
  p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 8, 8);
  theme::drawText(p, QRectF(px(14), px(8), px(60), px(20)), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("Fit"), theme::Type::Strong, c.text);
  const Project& project = m_session.project();
  QString beat = tr("beat %1").arg(project.tempo.value, 0, 'f', 2);
  if (project.key) beat += QStringLiteral(" · ") + QString::fromStdString(nameOf(*project.key));
  theme::drawText(p, QRectF(px(54), px(8), width() - px(66), px(20)),
                  Qt::AlignRight | Qt::AlignVCenter, beat, theme::Type::Small, c.quiet);
  const auto q = question();
  if (!q) {
    theme::drawText(p, QRectF(rect()).adjusted(px(14), px(40), -px(14), 0),
                    Qt::AlignTop | Qt::AlignLeft, tr("No tempo and no key"), theme::Type::Small,
                    c.quiet);
    return;
  }
  theme::drawText(p, QRectF(px(14), px(26), width() - px(28), px(16)),
                  Qt::AlignLeft | Qt::AlignVCenter, tr("repitch        BPM          key"),
                  theme::Type::Small, c.quiet);
  const auto now = currentShift();
  for (int st = kReach; st >= -kReach; --st) {
    const QRectF box = rowBox(st);
    const FitRow row = repitchRow(*q, Semitones(st));
    const bool agrees = row.keyDistance >= 0 && row.keyDistance <= 1,
               meets = q->bpm && std::abs(row.bpmErrorPercent) < 1.5;
    const bool here = now && std::abs(*now - st) < 0.5;
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
    p.fillRect(QRectF(box.left() + px(44), box.center().y(), px(12), 1), c.line);
    theme::drawText(p, QRectF(box.left() + px(58), box.top(), px(52), box.height()),
                    Qt::AlignRight | Qt::AlignVCenter,
                    q->bpm ? QString::number(row.resultBpm.value, 'f', 1) : QStringLiteral("–"),
                    theme::Type::Small, meets ? c.mint : c.text);
    theme::drawText(p, QRectF(box.left() + px(120), box.top(), px(40), box.height()),
                    Qt::AlignLeft | Qt::AlignVCenter,
                    row.resultKey ? QString::fromStdString(nameOf(*row.resultKey))
                                  : QStringLiteral("–"),
                    theme::Type::Small, agrees ? c.mint : c.text);
    if (agrees) { // a flag where the key agrees; filled where the tempo meets as well
      p.setPen(QPen(c.mint, 1.4));
      p.setBrush(meets || row.keyDistance == 0 ? QBrush(c.mint) : QBrush(Qt::NoBrush));
      const QPointF tip(box.right() - px(16), box.center().y());
      p.drawPolygon(QPolygonF({tip, tip + QPointF(px(8), -px(5)), tip + QPointF(px(8), px(5))}));
    }
  }
  if (!q->bpm) return;
  const Semitones exact = repitchToTempo(*q->bpm, q->toBpm);
  const FitRow best = repitchRow(*q, exact);
  const bool on = now && std::abs(*now - exact.value) < 0.006;
  p.setPen(QPen(c.mint, on ? 2 : 1));
  p.setBrush(on ? theme::mixed(c.mint, c.panel, 0.18) : c.raised);
  p.drawRoundedRect(bestBox().adjusted(0.5, 0.5, -0.5, -0.5), 6, 6);
  QString shift = QString::number(exact.value, 'f', 2).replace(QLatin1Char('-'), QChar(0x2212));
  if (exact.value > 0) shift.prepend(QLatin1Char('+'));
  const QRectF text = bestBox().adjusted(px(9), px(3), -px(6), -px(3));
  theme::drawText(p, QRectF(text.left(), text.top(), text.width(), text.height() / 2),
                  Qt::AlignLeft | Qt::AlignVCenter,
                  tr("%1 st meets %2").arg(shift).arg(q->toBpm.value, 0, 'f', 2),
                  theme::Type::Strong, c.mint);
  theme::drawText(p, QRectF(text.left(), text.center().y(), text.width(), text.height() / 2),
                  Qt::AlignLeft | Qt::AlignVCenter,
                  best.resultKey ? tr("%1, %2").arg(QString::fromStdString(nameOf(*best.resultKey)),
                                                    QString::fromStdString(best.heard))
                                 : QString::fromStdString(best.heard),
                  theme::Type::Small, c.quiet);
}

void FitRuler::mousePressEvent(QMouseEvent* event) {
  const auto q = question();
  if (!q) return;
  if (q->bpm && bestBox().contains(event->position())) {
    apply(repitchToTempo(*q->bpm, q->toBpm));
    return;
  }
  for (int st = -kReach; st <= kReach; ++st)
    if (rowBox(st).contains(event->position())) apply(Semitones(st));
}

void FitRuler::keyPressEvent(QKeyEvent* event) {
  const auto q = question();
  const double now = currentShift().value_or(0);
  switch (event->key()) {
  case Qt::Key_Up:
    apply(Semitones(std::floor(now + 1.0001)));
    break;
  case Qt::Key_Down:
    apply(Semitones(std::ceil(now - 1.0001)));
    break;
  case Qt::Key_Home:
    apply(Semitones(0));
    break;
  case Qt::Key_Return:
  case Qt::Key_Enter:
    if (q && q->bpm) apply(repitchToTempo(*q->bpm, q->toBpm));
    break;
  default:
    QWidget::keyPressEvent(event);
  }
}

} // namespace tuvvo
