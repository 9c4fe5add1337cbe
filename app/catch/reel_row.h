// The simulated player on the line, and the simulated microphone.
#pragma once

#include "panel/panel.h"
#include "session/player.h"
#include "session/reel_player.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

#include <QTimer>

class QLabel;

namespace tuvvo {

class ReelRow : public Panel {
  Q_OBJECT
public:
  ReelRow(Panel& host, ReelPlayer& reel, Player& player, QWidget* parent);

private:
  void refresh();
  void chooseFile();

  ReelPlayer& m_reel;
  Player& m_player;
  Chip *m_run, *m_file, *m_source;
  QLabel *m_name, *m_place;
  QTimer m_moves;
  Slide *m_speed, *m_level, *m_hum, *m_hiss;
};

} // namespace tuvvo
