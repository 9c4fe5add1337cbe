// Controllers: what is plugged in, what it was taught, the simulated one, and the clock.
#pragma once

#include "devices/simulated_controller.h"
#include "panel/panel.h"
#include "session/controller_service.h"
#include "session/transport.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

class QListWidget;

namespace tuvvo {

class Button;
class ControlRow;
class Label;
class Tick;

class ControllerPicture;

class ControllersPanel : public Panel {
  Q_OBJECT
public:
  ControllersPanel(Panel& host, ControllerService& controllers, Transport& transport,
                   QWidget* parent);

protected:
  void showEvent(QShowEvent* event) override;

private:
  void makeSettings(ControlRow& row);
  void makePlayer(ControlRow& row);
  void makeClock(ControlRow& row);
  void refresh();
  void refreshList();
  void refreshOutputs();
  void playFigure();
  void chooseFile();
  [[nodiscard]] std::optional<MidiPortName> chosen() const;

  ControllerService& m_controllers;
  Transport& m_transport;
  QListWidget* m_list;
  ControllerPicture* m_picture;
  Label *m_hint, *m_learning, *m_playerTitle, *m_clockTitle;
  Tick *m_used, *m_press, *m_follow;
  Button *m_fit, *m_teach, *m_stopTeaching;
  Combo *m_layout, *m_figure, *m_clockOut;
  Slide *m_loose, *m_late, *m_bars;
  Button *m_play, *m_file;
  std::vector<MidiPortName> m_ports, m_outputs; ///< in the order of the lists
  MidiPortName m_chosen;
  bool m_filling = false;
};

} // namespace tuvvo
