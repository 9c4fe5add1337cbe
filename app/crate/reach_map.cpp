#include "crate/reach_map.h"

#include "cut/fit.h"
#include "theme/theme.h"

#include <QFontMetricsF>
#include <QMouseEvent>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr double kWidestSt = 6; // semitones of tempo to either side
constexpr double kHighestFifths = 6;
} // namespace

ReachMap::ReachMap(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  setAccessibleName(tr("Reach map"));
  setToolTip(tr("Each source as a dot. Across: how far its tempo must move to meet the beat, half "
                "and double folded in. Up: fifths between its key, repitched that far, and the "
                "beat's. Low and in the middle fits as it is."));
  setMinimumSize(px(220), px(170));
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, qOverload<>(&QWidget::update));
}

QRectF ReachMap::field() const { return QRectF(rect()).adjusted(px(14), px(34), -px(14), -px(34)); }

std::vector<ReachMap::Dot> ReachMap::dots() const {
  std::vector<Dot> out;
  const Project& p = m_session.project();
  const QRectF f = field();
  for (const auto& source : p.sources) {
    if (source->kit) continue;
    const auto grid = gridOf(*source);
    const auto key = keyOf(*source);
    if (!grid && !key) continue;
    const double shift = grid ? repitchToTempo(grid->tempo, p.tempo).value : 0;
    double fifths = 0;
    if (key && p.key) {
      const double tuning =
          source->heard && source->heard->key ? source->heard->key->tuning.value / 100 : 0;
      fifths = keyDistance(transposed(*key, int(std::lround(shift + tuning))), *p.key);
    }
    const double x = f.center().x() + std::clamp(shift / kWidestSt, -1.0, 1.0) * f.width() / 2;
    const double y = f.bottom() - std::clamp(fifths / kHighestFifths, 0.0, 1.0) * f.height();
    out.push_back({source->id, {x, y}, grid.has_value(), key && p.key});
  }
  return out;
}

void ReachMap::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(c.panel);
  p.drawRoundedRect(rect(), 8, 8);
  theme::drawText(p, QRectF(px(14), px(8), width() - px(28), px(20)),
                  Qt::AlignLeft | Qt::AlignVCenter, tr("Reach"), theme::Type::Strong, c.text);
  const QString beat = QStringLiteral("%1 BPM%2")
                           .arg(m_session.project().tempo.value, 0, 'f', 2)
                           .arg(m_session.project().key
                                    ? QStringLiteral(" · ") +
                                          QString::fromStdString(nameOf(*m_session.project().key))
                                    : QString());
  theme::drawText(p, QRectF(px(70), px(8), width() - px(84), px(20)),
                  Qt::AlignRight | Qt::AlignVCenter, tr("to the beat, %1").arg(beat),
                  theme::Type::Small, c.quiet);
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
    const double x = home.x() + st / kWidestSt * f.width() / 2;
    const QString label =
        st == 0 ? tr("fits")
                : (st > 0 ? QStringLiteral("+%1").arg(st) : QStringLiteral("−%1").arg(-st));
    theme::drawText(p, QRectF(x - px(20), base, px(40), px(14)), Qt::AlignCenter, label,
                    theme::Type::Small, st == 0 ? c.mint : c.quiet);
  }
  theme::drawText(p, QRectF(f.left(), base + px(13), f.width(), px(14)), Qt::AlignCenter,
                  tr("semitones of repitch to meet the tempo"), theme::Type::Small, c.quiet);
  std::vector<QRectF> written;
  for (const Dot& dot : dots()) {
    const Source* source = findSource(m_session.project(), dot.source);
    const bool selected = dot.source == m_session.selection().source;
    const double r = selected ? px(7) : px(5);
    // A dot whose tempo or key is not known is hollow.
    p.setPen(QPen(selected ? c.brass : c.slate, 2));
    p.setBrush(dot.tempo && dot.key ? QBrush(selected ? c.brass : c.slate) : QBrush(c.panel));
    p.drawEllipse(dot.at, r, r);
    const double wide = QFontMetricsF(theme::font(theme::Type::Small))
                            .horizontalAdvance(QString::fromStdString(source->name)) +
                        4;
    const QRectF right(dot.at.x() + px(9), dot.at.y() - px(19), wide, px(16)),
        left = right.translated(-wide - px(18), 0);
    const auto taken = [&](const QRectF& box) {
      return !f.adjusted(-px(10), -px(20), px(10), 0).contains(box) ||
             std::any_of(written.begin(), written.end(),
                         [&](const QRectF& other) { return other.intersects(box); });
    };
    // To the right of its dot, else to the left; names of dots that stand close climb over each
    // other.
    QRectF label = right;
    for (int step = 0; step < 6; ++step) {
      if (label = right.translated(0, -px(15) * step); !taken(label)) break;
      if (label = left.translated(0, -px(15) * step); !taken(label)) break;
    }
    written.push_back(label);
    theme::drawText(p, label, Qt::AlignLeft | Qt::AlignVCenter,
                    QString::fromStdString(source->name), theme::Type::Small,
                    selected ? c.text : c.quiet);
  }
}

void ReachMap::mousePressEvent(QMouseEvent* event) {
  for (const Dot& dot : dots())
    if (QLineF(dot.at, event->position()).length() < px(14)) {
      m_session.selectSource(dot.source);
      m_session.audition(m_session.auditioned() == dot.source ? 0 : dot.source);
      return;
    }
}

} // namespace tuvvo
