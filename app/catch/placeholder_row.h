// The simulated player on the line, and the simulated microphone.
#pragma once

#include "panel/panel.h"
#include "session/placeholder_player.h"
#include "session/player.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

#include <QTimer>

class QLabel;

namespace tuvvo {

class PlaceholderRow : public Panel {
  Q_OBJECT
public:
  PlaceholderRow(Panel& host, PlaceholderPlayer& placeholder, Player& player, QWidget* parent);

private:
  void refresh();
  void chooseFile();

  PlaceholderPlayer& m_placeholder;
  Player& m_player;
  Chip *m_run, *m_file, *m_source;
  QLabel *m_name, *m_place;
  QTimer m_moves;
  Slide *m_speed, *m_level, *m_hum, *m_hiss;
};

} // namespace tuvvo
