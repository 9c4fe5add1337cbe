// Bars on a ruler are made to go round: dragged over they do; pressed once more they do no longer.
#pragma once

#include "session/transport.h"

namespace tuvvo {

class LoopDrag {
public:
  /// @param what  is ruled; it is what is played from now on
  LoopDrag(Transport& transport, Plays what) : m_transport(transport), m_what(what) {}

  void press(double beats);
  void move(double beats);
  void release();
  [[nodiscard]] bool dragging() const { return m_from >= 0; }
  /// "Bars 2 to 3 go round"; empty where all of it does.
  [[nodiscard]] QString words() const;
  /// What goes round on this ruler.
  [[nodiscard]] std::optional<LoopSpan> loop() const {
    return m_transport.plays() == m_what ? m_transport.loop() : std::nullopt;
  }

private:
  Transport& m_transport;
  Plays m_what;
  int m_from = -1, m_to = -1; ///< bars, while they are dragged over
  bool m_wasIn = false;       ///< it was pressed inside of what went round
};

} // namespace tuvvo
