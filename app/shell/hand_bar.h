// How the deck is played: velocity, softness, roll and spread, in one row over it.
#pragma once

#include "session/session.h"
#include "widgets/combo.h"
#include "widgets/slide.h"

namespace tuvvo {

class HandBar : public QWidget {
  Q_OBJECT
public:
  HandBar(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  void change(const std::function<void(Session::HandSettings&)>& change);

  Session& m_session;
  Slide *m_velocity, *m_soft, *m_swell, *m_climb;
  Combo *m_roll, *m_spread;
};

} // namespace tuvvo
