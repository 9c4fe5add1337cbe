// The output's level, its highest peak, and how much the limiter does.
#pragma once

#include "panel/panel.h"

namespace tuvvo {

class Player;
class Transport;

class OutputMeter : public Panel {
  Q_OBJECT
public:
  OutputMeter(Panel& host, Player& player, Transport& transport, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override {
    m_hold = 0;
    refresh();
  }

private:
  void refresh();

  Player& m_player;
  float m_hold = 0; ///< the highest peak
};

} // namespace tuvvo
