// The simulated player on the line, and the simulated microphone.
#pragma once

#include "panel/panel.h"
#include "session/player.h"
#include "session/reel_player.h"
#include "widgets/slide.h"

#include <QTimer>

namespace tuvvo {

class Button;
class Label;

class ReelRow : public Panel {
  Q_OBJECT
public:
  ReelRow(Panel& host, ReelPlayer& reel, Player& player, QWidget* parent);

private:
  void refresh();
  void chooseFile();

  ReelPlayer& m_reel;
  Player& m_player;
  Button *m_run, *m_file, *m_source;
  Label *m_name, *m_place;
  QTimer m_moves;
  Slide *m_speed, *m_level, *m_hum, *m_hiss;
};

} // namespace tuvvo
