// Room: the kick against the bass as they sound, what to do about it, and who plays when.
#pragma once

#include "beat/roles.h"
#include "notes/free_space.h"
#include "panel/panel.h"

#include <QWidget>

namespace tuvvo {

class Button;
class Label;
class RolesView;
class Slide;

class FreeSpacePanel : public Panel {
  Q_OBJECT
public:
  FreeSpacePanel(Panel& host, QWidget* parent);
  void refresh();

private:
  void compare();

  std::optional<FreeSpace> m_room;
  Key m_heardKey; ///< the kick as it was listened to
  LowSound m_heard;
  Label* m_figures;
  std::vector<Button*> m_answers;
  Slide *m_depth, *m_back;
  RolesView* m_roles;
};

/// Parts by role over the pattern's time: four rows, full where something plays.
class RolesView : public Panel {
  Q_OBJECT
public:
  RolesView(Panel& host, QWidget* parent);
  [[nodiscard]] const RolesOverTime& busy() const { return m_busy; }
  void refresh();

protected:
  void paintEvent(QPaintEvent*) override;

private:
  RolesOverTime m_busy;
  int m_perBar = 4;
};

} // namespace tuvvo
