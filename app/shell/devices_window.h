// Devices: where sound goes out and comes in, how fast, and how well it gets on.
#pragma once

#include "devices/live_sound.h"
#include "widgets/combo.h"

#include <QTimer>
#include <QWidget>

namespace tuvvo {

class Button;
class Label;

class CatchService;
class Player;

/// A window of its own beside the bench: what is chosen in it acts at once.
class DevicesWindow : public QWidget {
  Q_OBJECT
public:
  DevicesWindow(Player& player, CatchService& catching, QWidget* parent);
  /// Looks what is there, and comes to the front.
  void open();

protected:
  void keyPressEvent(QKeyEvent* event) override;

private:
  Combo* combo(const QString& name, const QString& tip);
  void slicesInOrder();
  void connectChoices();
  void choose(const std::function<void(SoundChoice&)>& change);
  void lookAround();
  void refresh();
  void refreshFigures();

  Player& m_player;
  CatchService& m_catching;
  Combo *m_server, *m_output, *m_rate, *m_block, *m_input, *m_pair;
  Label *m_state, *m_load, *m_latency, *m_caution;
  Button *m_measure, *m_again, *m_close;
  std::vector<DeviceAbout> m_devices;
  std::vector<std::string> m_inputs; ///< of devices, in the order of the list
  QTimer m_timer;
};

} // namespace tuvvo
