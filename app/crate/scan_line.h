// What the scan is doing, and the folders it watches.
#pragma once

#include "session/session.h"

#include <QWidget>

class QLabel;

namespace tuvvo {

class Chip;

class ScanLine : public QWidget {
  Q_OBJECT
public:
  ScanLine(Session& session, QWidget* parent);
  /// Asks for a folder and adds it.
  void chooseFolder();

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  void showFolders();
  void showUnreadable();

  Session& m_session;
  QLabel* m_text;
  Chip *m_folders, *m_pause, *m_cancel, *m_bad;
  double m_done = 0;
};

} // namespace tuvvo
