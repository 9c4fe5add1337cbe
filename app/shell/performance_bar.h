// How the deck is played: velocity, softness, roll and spread, in one row over it.
#pragma once

#include "panel/panel.h"
#include "session/deck_hand.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

namespace tuvvo {

class PerformanceBar : public Panel {
  Q_OBJECT
public:
  PerformanceBar(Panel& host, DeckHand& hand, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  void change(const std::function<void(PerformanceSettings&)>& change);

  DeckHand& m_hand;
  Slide *m_velocity, *m_soft, *m_swell, *m_climb;
  Combo *m_roll, *m_spread;
};

} // namespace tuvvo
