// Catching: what comes in, how it is heard, the three ways to catch it, and the sifter.
#pragma once

#include "catch/input_strip.h"
#include "catch/sifter_view.h"
#include "catch/stand_in_row.h"
#include "session/catch_service.h"

namespace tuvvo {

class CatchPanel : public QWidget {
  Q_OBJECT
public:
  CatchPanel(Session& session, QWidget* parent);
  [[nodiscard]] SifterView& sifter() { return *m_sifter; }

signals:
  void devicesWanted();

private:
  void makeInput(QLayout& row);
  void makeWays(QLayout& row);
  void refresh();
  void refreshState();
  void change(const std::function<void(CatchService::Settings&)>& what);

  Session& m_session;
  Combo *m_input, *m_hear;
  Chip *m_devices, *m_print, *m_measure, *m_begin;
  std::array<Chip*, 3> m_ways{};
  Slide *m_bars, *m_over, *m_preRoll, *m_silence;
  QLabel *m_state, *m_about;
  InputStrip* m_strip;
  StandInRow* m_standIn;
  SifterView* m_sifter;
};

} // namespace tuvvo
