// Straightening: how much, of what, and what it costs.
#pragma once

#include "panel/panel.h"
#include "session/player.h"
#include "session/transport.h"
#include "widgets/slide.h"

namespace tuvvo {

class Button;
class Label;
class Segments;
class Tick;

class StraightenRow : public Panel {
  Q_OBJECT
public:
  StraightenRow(Panel& host, Transport& transport, Player& player, QWidget* parent);

  /// Plays the slices in order against the metronome.
  void playInTime();

private:
  Id slicesInOrder();
  void refresh();
  void change(const QString& name, const std::function<void(Shape&)>& what,
              const QString& merge = {});

  Transport& m_transport;
  Player& m_player;
  Slide* m_amount;
  Segments* m_by;
  Tick *m_material, *m_formants, *m_countIn;
  Button *m_inOrder, *m_bake;
  Id m_laidOut = 0; ///< the pattern that was written last
  Label* m_cost;
};

} // namespace tuvvo
