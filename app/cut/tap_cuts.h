// Cuts tapped while the source plays.
#pragma once

#include "panel/panel.h"
#include "session/auditions.h"

#include <QTimer>

namespace tuvvo {

/// Plays the chosen source once as it is; what is tapped meanwhile becomes cuts when it ends.
class TapCuts : public QObject {
  Q_OBJECT
public:
  TapCuts(Panel& panel, Auditions& auditions);
  void start();
  /// Now.
  void tap();
  /// Ends it and makes the cuts.
  void finish();
  [[nodiscard]] bool tapping() const { return m_source != 0; }
  /// Where the source is heard now; before its start while it is not heard yet.
  [[nodiscard]] Seconds place() const { return m_auditions.placeAsItIs(); }

signals:
  /// It began, moved on or ended.
  void moved();

private:
  Panel& m_panel; ///< its parent
  Auditions& m_auditions;
  Id m_source = 0;
  std::vector<Seconds> m_taps;
  QTimer m_timer;
};

} // namespace tuvvo
