// How many milliseconds each beat was played early or late against an even grid.
#pragma once

#include "cut/wave_view.h"

namespace tuvvo {

class DriftLine : public QWidget {
  Q_OBJECT
public:
  DriftLine(Session& session, WaveView& wave, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Session& m_session;
  WaveView& m_wave;
};

} // namespace tuvvo
