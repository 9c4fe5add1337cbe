// Takes: how they are recorded, caught and practised, and how they were played.
#pragma once

#include "keys/timing_view.h"
#include "panel/panel.h"
#include "session/recorder.h"
#include "session/transport.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

namespace tuvvo {

class Button;
class ControlRow;
class Label;
class Tick;

/// How the spread went from round to round: a bar each, the lowest the most even.
class RoundsView : public Panel {
  Q_OBJECT
public:
  RoundsView(Panel& host, Recorder& recorder, QWidget* parent);
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Recorder& m_recorder;
};

class TakePanel : public Panel {
  Q_OBJECT
public:
  TakePanel(Panel& host, Recorder& recorder, Transport& transport, QWidget* parent);
  [[nodiscard]] TimingView& timing() { return *m_timing; }

private:
  void makeTop(ControlRow& row);
  void makeQuantise(ControlRow& row);
  void refresh();

  Recorder& m_recorder;
  Transport& m_transport;
  Button *m_record, *m_practise, *m_catch, *m_quantise, *m_followTempo;
  Tick* m_replace;
  Combo *m_countIn, *m_clickSound, *m_grid, *m_otherTempo;
  Slide *m_clickLevel, *m_strength, *m_ghosts, *m_round;
  Label *m_sentence, *m_quantiseTitle;
  TimingView* m_timing;
  RoundsView* m_rounds;
};

} // namespace tuvvo
