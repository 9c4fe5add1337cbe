#include "parts/loop_drag.h"

#include <QCoreApplication>

namespace tuvvo {

void LoopDrag::press(double beats) {
  m_transport.setPlays(m_what);
  m_from = m_to = m_transport.barAt(beats);
  const auto now = m_transport.loop();
  m_wasIn = now && beats >= inBeats(now->from) && beats < inBeats(now->until);
}

void LoopDrag::move(double beats) {
  if (!dragging()) return;
  const int bar = m_transport.barAt(beats);
  if (bar == m_to) return;
  m_to = bar;
  m_wasIn = false;
  m_transport.loopBars(std::min(m_from, m_to), std::abs(m_to - m_from) + 1);
}

void LoopDrag::release() {
  if (!dragging()) return;
  if (m_wasIn)
    m_transport.loopAll();
  else
    m_transport.loopBars(std::min(m_from, m_to), std::abs(m_to - m_from) + 1);
  m_from = m_to = -1;
}

QString LoopDrag::words() const {
  if (!loop()) return {};
  const auto [from, to] = *m_transport.loopedBars();
  return from == to
             ? QCoreApplication::translate("loop", "Bar %1 goes round").arg(from)
             : QCoreApplication::translate("loop", "Bars %1 to %2 go round").arg(from).arg(to);
}

} // namespace tuvvo
