#include "beat/alike_strip.h"

#include "beat/ribbons_view.h"
#include "theme/theme.h"

#include <QPainter>
#include <map>

namespace tuvvo {

using theme::px;

std::vector<int> barsAlike(const Pattern& pattern) {
  const std::int64_t bar = barOf(pattern.meter).value;
  using Hit = std::tuple<Id, std::int64_t, Id, int>;
  std::vector<std::vector<Hit>> bars(std::size_t(pattern.bars));
  for (const auto& lane : pattern.lanes)
    for (const auto& pin : lane.pins)
      if (const std::int64_t index = pin.at.value / bar; index < pattern.bars)
        bars[std::size_t(index)].emplace_back(lane.part, pin.at.value % bar, pin.key,
                                              int(pin.tune.value));
  std::map<std::vector<Hit>, int> firsts;
  std::vector<int> alike;
  for (int i = 0; i < pattern.bars; ++i) {
    auto& hits = bars[std::size_t(i)];
    std::sort(hits.begin(), hits.end());
    alike.push_back(firsts.emplace(std::move(hits), i).first->second);
  }
  return alike;
}

AlikeStrip::AlikeStrip(Session& session, RibbonsView& ribbons, QWidget* parent)
    : QWidget(parent), m_session(session), m_ribbons(ribbons) {
  setAccessibleName(tr("Bars alike"));
  setToolTip(tr("Bars with the same letter hold the same hits."));
  setFixedHeight(px(22));
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, qOverload<>(&QWidget::update));
  connect(&ribbons, &RibbonsView::viewChanged, this, qOverload<>(&QWidget::update));
}

void AlikeStrip::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const PatternPtr pattern = findPattern(m_session.project(), m_session.selection().pattern);
  if (!pattern) return;
  const double from = m_ribbons.from(), bar = quartersOf(pattern->meter),
               left = m_ribbons.xOf(from);
  QString words = tr("bars alike");
  if (const auto meeting = meetingOf(*pattern); !meeting)
    words = tr("never meet");
  else if (*meeting > lengthOf(*pattern))
    words = tr("meet after %1 bars")
                .arg(double(meeting->value) / double(barOf(pattern->meter).value), 0, 'g', 4);
  theme::drawText(p, QRectF(px(12), 0, left - px(16), height()), Qt::AlignLeft | Qt::AlignVCenter,
                  words, theme::Type::Small, c.quiet);
  p.setClipRect(QRectF(left - 1, 0, width() - left + 1, height()));
  std::map<int, int> letters;
  const auto alike = barsAlike(*pattern);
  for (std::size_t i = 0; i < alike.size(); ++i) {
    const int letter = letters.emplace(alike[i], int(letters.size())).first->second;
    const double x = m_ribbons.xOf(double(i) * bar), end = m_ribbons.xOf(double(i + 1) * bar);
    const QRectF box(x, px(2), end - x - std::min(double(px(3)), (end - x) / 4), height() - px(6));
    p.setPen(Qt::NoPen);
    p.setBrush(theme::mixed(c.slate, c.panel, letter % 2 ? 0.22 : 0.5));
    p.drawRoundedRect(box, 4, 4);
    const QString name = letter < 26
                             ? QString(QChar('A' + letter))
                             : QChar('A' + letter / 26 - 1) + QString(QChar('A' + letter % 26));
    if (box.width() > px(44))
      theme::drawText(p, box.adjusted(px(8), 0, -px(6), 0), Qt::AlignLeft | Qt::AlignVCenter,
                      QString::number(i + 1), theme::Type::Small, c.text);
    if (box.width() > px(11))
      theme::drawText(p, box.width() > px(44) ? box.adjusted(px(8), 0, -px(8), 0) : box,
                      (box.width() > px(44) ? Qt::AlignRight : Qt::AlignHCenter) | Qt::AlignVCenter,
                      name, theme::Type::Small, c.text);
  }
}

} // namespace tuvvo
