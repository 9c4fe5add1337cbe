// Every control of the stages by name: what the finder goes to besides commands.
#pragma once

#include "notes/notes.h"

#include <QPointer>
#include <QString>
#include <QWidget>
#include <vector>

namespace tuvvo {

class StageView;

struct FoundControl {
  QString name; ///< a choice with what is chosen among: "Pitch: Stretch"
  Stage stage{};
  QPointer<QWidget> control;
  QPointer<QWidget> root; ///< its stage, or what stands beside it there
};

/// What can be used now and is in sight or can be revealed, in the order of the stage; where
/// two have one name, each says what it is about.
/// @param root  a stage's view, or a part of the window that is there on this stage alone
[[nodiscard]] std::vector<FoundControl> controlsIn(QWidget& root, Stage stage);

/// Brings it into sight. What is pressed is pressed, everything else takes the keyboard. The stage
/// is shown already.
void goTo(const FoundControl& found);

} // namespace tuvvo
