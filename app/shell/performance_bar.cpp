#include "shell/performance_bar.h"

#include "theme/theme.h"
#include "widgets/control_row.h"

#include <QLayout>

namespace tuvvo {

using theme::px;

namespace {
constexpr std::array kRollBeats{1.0, 1 / 2.0, 1 / 3.0, 1 / 4.0, 1 / 6.0, 1 / 8.0, 1 / 12.0};
}

PerformanceBar::PerformanceBar(Panel& host, DeckHand& hand, QWidget* parent)
    : Panel(host, parent), m_hand(hand) {
  setAccessibleName(tr("The hand"));
  auto* row = ControlRow::in(this);
  layout()->setContentsMargins(px(16), px(6), px(12), px(4));
  using Stays = ControlRow::Stays;
  const auto slide = [&](const QString& id, const QString& text, const QString& name,
                         Slide::Range range, Stays stays) {
    auto* made = new Slide(text, range, {}, this);
    made->setId(id);
    made->setAccessibleName(name);
    made->setFixedWidth(px(100));
    row->add(made, stays);
    return made;
  };
  m_velocity = slide(QStringLiteral("hand.velocity"), tr("Velocity"), tr("Velocity"),
                     {5, 100, 80, 1, 0}, Stays::Always);
  m_velocity->setToolTip(
      tr("How hard the keys play (9 softer, 0 harder); with Shift as hard as there is"));
  m_soft = slide(QStringLiteral("hand.soft"), tr("Velocity variation"), tr("Velocity variation"),
                 {0, 30, 0, 1, 0}, Stays::IfThereIsRoom);
  m_soft->setFormat([](double v) { return v == 0 ? tr("even") : tr("\u00b1%1").arg(v); });
  m_soft->setToolTip(tr("How much velocities differ from hit to hit, as a hand's do (;)"));
  m_roll = new Combo(tr("Roll"), tr("How often a held key repeats while L is down"), this);
  m_roll->addItems({tr("roll 1/4"), tr("roll 1/8"), tr("roll 1/8 triplet"), tr("roll 1/16"),
                    tr("roll 1/16 triplet"), tr("roll 1/32"), tr("roll 1/32 triplet")});
  row->add(m_roll, Stays::Always);
  m_swell = slide(QStringLiteral("hand.roll-swells"), tr("Roll swells"), tr("Roll swells"),
                  {-100, 100, 0, 5, 0}, Stays::UnderMore);
  m_swell->setFormat([](double v) {
    return v == 0 ? tr("even") : tr("%1%2 a beat").arg(v > 0 ? "+" : "\u2212").arg(std::abs(v));
  });
  m_swell->setToolTip(tr("Velocity that a roll gains or loses with every beat"));
  m_climb = slide(QStringLiteral("hand.roll-climbs"), tr("Roll climbs"), tr("Roll climbs"),
                  {-24, 24, 0, 1, 0}, Stays::UnderMore);
  m_climb->setFormat([](double v) {
    return v == 0 ? tr("level") : tr("%1%2 st").arg(v > 0 ? "+" : "\u2212").arg(std::abs(v));
  });
  m_climb->setToolTip(tr("Semitones that a roll goes up or down with every beat"));
  m_spread = new Combo(tr("Spread"),
                       tr("Lay the chosen key's sound over the whole deck (O): every key differs "
                          "by what is chosen here"),
                       this);
  m_spread->addItems({tr("not spread"), tr("spread by semitones"), tr("spread by scale"),
                      tr("spread by velocity"), tr("spread by start"), tr("spread by length"),
                      tr("spread by brightness")});
  row->add(m_spread);
  connect(m_velocity, &Slide::changed, this,
          [this](double v, bool) { change([v](auto& settings) { settings.velocity = v / 100; }); });
  connect(m_soft, &Slide::changed, this,
          [this](double v, bool) { change([v](auto& settings) { settings.soft = v / 100; }); });
  connect(m_swell, &Slide::changed, this,
          [this](double v, bool) { change([v](auto& settings) { settings.swell = v / 100; }); });
  connect(m_climb, &Slide::changed, this,
          [this](double v, bool) { change([v](auto& settings) { settings.climb = v; }); });
  connect(m_roll, &QComboBox::activated, this, [this](int which) {
    change([which](auto& settings) { settings.rollBeats = kRollBeats[std::size_t(which)]; });
  });
  connect(m_spread, &QComboBox::activated, this, [this](int which) {
    m_hand.setSpread(which == 0 ? std::nullopt : std::optional(SpreadBy(which - 1)));
    refresh();
  });
  connect(&hand, &DeckHand::changed, this, &PerformanceBar::refresh);
  refresh();
}

void PerformanceBar::change(const std::function<void(PerformanceSettings&)>& change) {
  auto hand = m_hand.settings();
  change(hand);
  m_hand.set(hand);
}

void PerformanceBar::refresh() {
  const auto& hand = m_hand.settings();
  m_velocity->setValue(std::round(hand.velocity * 100));
  m_soft->setValue(std::round(hand.soft * 100));
  m_swell->setValue(std::round(hand.swell * 100));
  m_climb->setValue(hand.climb);
  for (std::size_t i = 0; i < kRollBeats.size(); ++i)
    if (std::abs(kRollBeats[i] - hand.rollBeats) < 1e-6) m_roll->setCurrentIndex(int(i));
  m_spread->setCurrentIndex(hand.spread ? int(*hand.spread) + 1 : 0);
}

void PerformanceBar::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().panel);
  p.fillRect(QRect(0, 0, width(), 1), theme::colours().line);
}

} // namespace tuvvo
