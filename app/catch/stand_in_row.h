// The simulated player on the line, and the simulated microphone.
#pragma once

#include "widgets/chip.h"
#include "widgets/slide.h"

class QLabel;

namespace tuvvo {

class Session;

class StandInRow : public QWidget {
  Q_OBJECT
public:
  StandInRow(Session& session, QWidget* parent);

private:
  void refresh();
  void chooseFile();

  Session& m_session;
  Chip *m_run, *m_file, *m_source;
  QLabel *m_name, *m_place;
  Slide *m_speed, *m_level, *m_hum, *m_hiss;
};

} // namespace tuvvo
