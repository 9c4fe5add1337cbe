#include "crate/reach_map.h"
#include "session/music_text.h"

#include "base/convert.h"
#include "theme/theme.h"
#include "words/fit_words.h"

#include <QFontMetricsF>
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QToolTip>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr double kWidestSt = 6; // semitones of tempo to either side
constexpr double kHighestFifths = 6;
constexpr double kHighestCost = 12; // strongly heard
constexpr std::size_t kMostNames = 12;

/// How far a point lies from a box; 0 within it.
double apartOf(const QRectF& box, QPointF point) {
  const double dx = std::max({box.left() - point.x(), 0.0, point.x() - box.right()}),
               dy = std::max({box.top() - point.y(), 0.0, point.y() - box.bottom()});
  return std::hypot(dx, dy);
}

QString methodText(FitMethod method) {
  switch (method) {
  case FitMethod::Repitch:
    return ReachMap::tr("repitch");
  case FitMethod::Stretch:
    return ReachMap::tr("stretch");
  case FitMethod::Respace:
    return ReachMap::tr("re-space");
  }
  return {};
}

} // namespace

ReachMap::ReachMap(Panel& host, QWidget* parent) : PicturePanel(host, parent) {
  setAccessibleName(tr("Reach map"));
  setMinimumSize(px(220), px(150));
  setFocusPolicy(Qt::StrongFocus);
}

void ReachMap::setDots(std::vector<ReachDot> dots) {
  m_dots = std::move(dots);
  drawAnew();
}

void ReachMap::setChosen(std::optional<RowId> row) {
  m_chosen = row;
  drawAnew();
}

QRectF ReachMap::field() const { return QRectF(rect()).adjusted(px(14), px(30), -px(14), -px(34)); }

bool ReachMap::upTellsKeys() const {
  return project().key && std::any_of(m_dots.begin(), m_dots.end(), [](const ReachDot& dot) {
           return dot.question.key.has_value();
         });
}

std::vector<ReachMap::Placed> ReachMap::placed() const {
  std::vector<Placed> out;
  const Project& p = project();
  const QRectF f = field();
  const bool byKey = upTellsKeys();
  for (const auto& dot : m_dots) {
    const FitQuestion& q = dot.question;
    const double shift = q.bpm ? repitchToTempo(*q.bpm, p.tempo).value : 0;
    double fifths = 0;
    if (q.key && p.key)
      fifths =
          keyDistance(transposed(*q.key, toNearest<int>(shift + q.tuning.value / 100)), *p.key);
    const auto rows = planFit(q);
    if (rows.empty()) continue;
    const double up = byKey ? fifths / kHighestFifths : rows.front().cost / kHighestCost;
    out.push_back({&dot,
                   {f.center().x() + std::clamp(shift / kWidestSt, -1.0, 1.0) * f.width() / 2,
                    f.bottom() - std::clamp(up, 0.0, 1.0) * f.height()},
                   rows.front().cost,
                   rows.front().method});
  }
  return out;
}

void ReachMap::paintGround(QPainter& p) {
  const auto& c = theme::colours();
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(rect(), 8, 8);
  const QString beat =
      QStringLiteral("%1 BPM%2")
          .arg(project().tempo.value, 0, 'f', 2)
          .arg(project().key ? QStringLiteral(" · ") + musicText(nameOf(*project().key))
                             : QString());
  const QRectF head(px(14), px(6), width() - px(28), px(20));
  theme::drawText(p, head, Qt::AlignRight | Qt::AlignVCenter, tr("to the beat, %1").arg(beat),
                  theme::Type::Small, c.quiet);
  // What a dot's shape says: the method that reaches it for least.
  double x = head.left();
  for (FitMethod method : {FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace}) {
    const QPointF at(x + px(5), head.center().y());
    p.setPen(Qt::NoPen);
    p.setBrush(c.slate);
    drawDot(p, at, px(4), method);
    const QString text = methodText(method);
    const double wide =
        QFontMetricsF(theme::font(theme::Type::Small)).horizontalAdvance(text) + px(4);
    theme::drawText(p, {x + px(12), head.top(), wide, head.height()},
                    Qt::AlignLeft | Qt::AlignVCenter, text, theme::Type::Small, c.quiet);
    x += px(20) + wide;
  }
  const QRectF f = field();
  const QPointF home(f.center().x(), f.bottom());
  p.save();
  p.setClipRect(f.adjusted(-2, -4, 2, 2));
  // Rings: hardly coloured, coloured, strongly coloured, at 2, 4 and 6 semitones.
  for (int ring = 3; ring >= 1; --ring) {
    p.setBrush(theme::mixed(c.mint, c.panel, 0.05 * (4 - ring)));
    p.setPen(QPen(c.line, 1));
    p.drawEllipse(home, f.width() / 2 * ring / 3, f.height() * ring / 3);
  }
  p.restore();
  p.setPen(QPen(c.line, 1));
  p.drawLine(QPointF(f.left(), f.bottom()), QPointF(f.right(), f.bottom()));
  p.drawLine(home, QPointF(home.x(), f.top()));
  const double base = f.bottom() + px(4);
  for (int st : {-6, -4, -2, 0, 2, 4, 6}) {
    const double at = home.x() + st / kWidestSt * f.width() / 2;
    const QString label =
        st == 0 ? tr("fits")
                : (st > 0 ? QStringLiteral("+%1").arg(st) : QStringLiteral("−%1").arg(-st));
    theme::drawText(p, QRectF(at - px(20), base, px(40), px(14)), Qt::AlignCenter, label,
                    theme::Type::Small, st == 0 ? c.mint : c.quiet);
  }
  theme::drawText(p, QRectF(f.left(), base + px(13), f.width(), px(14)), Qt::AlignCenter,
                  upTellsKeys()
                      ? tr("semitones of repitch to meet the tempo; up: fifths between the keys")
                      : tr("semitones of repitch to meet the tempo; up: how much it is heard"),
                  theme::Type::Small, c.quiet);
}

void ReachMap::drawDot(QPainter& p, QPointF at, double r, FitMethod method) {
  switch (method) {
  case FitMethod::Repitch:
    p.drawEllipse(at, r, r);
    break;
  case FitMethod::Stretch: // drawn out
    p.drawRoundedRect(QRectF(at.x() - r * 1.5, at.y() - r * 0.7, r * 3, r * 1.4), r * 0.7, r * 0.7);
    break;
  case FitMethod::Respace: // in pieces
    for (double dx : {-1.0, 1.0})
      p.drawRect(QRectF(at.x() + dx * r * 0.75 - r * 0.5, at.y() - r, r, 2 * r));
    break;
  }
}

void ReachMap::paintDots(QPainter& p) {
  const auto& c = theme::colours();
  const QRectF f = field();
  const QFontMetricsF metrics(theme::font(theme::Type::Small));
  std::vector<QRectF> written;
  const auto all = placed();
  // The nearest are painted last, over the others; their names are written first.
  for (auto each = all.rbegin(); each != all.rend(); ++each) {
    const bool chosen = m_chosen && each->dot->row == *m_chosen;
    if (chosen) continue;
    const QColor ink = each->cost < 6 ? c.slate : theme::markOf(c.slate, c.panel, 0);
    p.setPen(QPen(ink, 1.5));
    p.setBrush(each->dot->question.bpm && each->dot->question.key ? QBrush(ink) : QBrush(c.panel));
    drawDot(p, each->at, all.size() > 60 ? px(3) : px(4), each->method);
  }
  const auto name = [&](const Placed& each, bool chosen) {
    const double wide = metrics.horizontalAdvance(each.dot->name) + 4;
    const QSizeF size(wide, px(16));
    const QPointF at = each.at;
    const std::array places{QRectF(QPointF(at.x() + px(9), at.y() - px(19)), size),
                            QRectF(QPointF(at.x() - wide - px(9), at.y() - px(19)), size),
                            QRectF(QPointF(at.x() - wide / 2, at.y() - px(24)), size),
                            QRectF(QPointF(at.x() + px(9), at.y() - px(8)), size),
                            QRectF(QPointF(at.x() - wide - px(9), at.y() - px(8)), size)};
    // A name stands nearer to its own mark than to any other, and on none.
    const auto taken = [&](const QRectF& box) {
      const double own = apartOf(box, each.at);
      return !f.adjusted(-px(10), -px(4), px(10), 0).contains(box) ||
             std::any_of(written.begin(), written.end(),
                         [&](const QRectF& other) { return other.intersects(box); }) ||
             std::any_of(all.begin(), all.end(), [&](const Placed& other) {
               const double apart = apartOf(box, other.at);
               return other.dot != each.dot && (apart <= own || apart < px(6));
             });
    };
    for (const QRectF& place : places)
      if (!taken(place)) {
        written.push_back(place);
        theme::drawText(p, place, Qt::AlignLeft | Qt::AlignVCenter, each.dot->name,
                        theme::Type::Small, chosen ? c.text : c.quiet);
        return;
      }
  };
  for (const auto& each : all)
    if (m_chosen && each.dot->row == *m_chosen) {
      p.setPen(QPen(c.brass, 2));
      p.setBrush(each.dot->question.bpm && each.dot->question.key ? QBrush(c.brass)
                                                                  : QBrush(c.panel));
      drawDot(p, each.at, px(6), each.method);
      name(each, true);
    }
  // Where there are many, only the nearest are named.
  std::size_t named = 0;
  for (const auto& each : all)
    if ((!m_chosen || !(each.dot->row == *m_chosen)) && named++ < kMostNames) name(each, false);
}

void ReachMap::draw(QPainter& p) {
  paintGround(p);
  paintDots(p);
  if (hasFocus()) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme::colours().brass, 1));
    p.drawRoundedRect(QRectF(rect()).adjusted(0.5, 0.5, -0.5, -0.5), 8, 8);
  }
}

void ReachMap::mousePressEvent(QMouseEvent* event) {
  const Placed* nearest = nullptr;
  double least = px(14);
  const auto all = placed();
  for (const auto& each : all)
    if (const double apart = QLineF(each.at, event->position()).length(); apart < least) {
      least = apart;
      nearest = &each;
    }
  if (nearest) emit picked(nearest->dot->row);
}

void ReachMap::keyPressEvent(QKeyEvent* event) {
  const int key = event->key();
  const bool on = key == Qt::Key_Right || key == Qt::Key_Down;
  if (!on && key != Qt::Key_Left && key != Qt::Key_Up) return PicturePanel::keyPressEvent(event);
  const auto all = placed();
  if (all.empty()) return;
  std::size_t at = 0;
  for (std::size_t i = 0; i < all.size(); ++i)
    if (m_chosen && all[i].dot->row == *m_chosen)
      at = on ? std::min(i + 1, all.size() - 1) : i - std::min<std::size_t>(i, 1);
  emit picked(all[at].dot->row);
}

bool ReachMap::event(QEvent* event) {
  if (event->type() == QEvent::ToolTip) {
    auto* help = static_cast<QHelpEvent*>(event);
    for (const auto& each : placed())
      if (QLineF(each.at, QPointF(help->pos())).length() < px(10)) {
        QStringList lines{each.dot->name};
        const auto rows = planFit(each.dot->question);
        for (FitMethod method : {FitMethod::Repitch, FitMethod::Stretch, FitMethod::Respace})
          for (const auto& row : rows)
            if (row.method == method) {
              lines << tr("%1: %2").arg(methodText(method), QString::fromStdString(soundOf(row)));
              break;
            }
        QToolTip::showText(help->globalPos(), lines.join(QLatin1Char('\n')), this);
        return true;
      }
    QToolTip::showText(
        help->globalPos(),
        tr("Each source as a dot. Across: how far its tempo must move to meet the "
           "beat, half and double folded in. Up: fifths between its key, repitched "
           "that far, and the beat's; without keys, how much the best way is heard. Low and in "
           "the middle fits as it is. Arrows go from one to the next."),
        this);
    return true;
  }
  return PicturePanel::event(event);
}

} // namespace tuvvo
