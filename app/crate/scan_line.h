// What the scan is doing, and the folders it watches.
#pragma once

#include "panel/panel.h"
#include "session/crate_service.h"

#include <QWidget>

namespace tuvvo {

class Button;
class Label;
class Tick;

class ScanLine : public Panel {
  Q_OBJECT
public:
  ScanLine(Panel& host, CrateService& crate, QWidget* parent);
  /// Asks for a folder and adds it.
  void chooseFolder();

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refresh();
  void showFolders();
  void showUnreadable();

  CrateService& m_crate;
  Label* m_text;
  Button *m_folders, *m_cancel, *m_bad;
  Tick* m_pause;
  double m_done = 0;
};

} // namespace tuvvo
