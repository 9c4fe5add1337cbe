// Every control of the stages by name: what the finder goes to besides commands.
#pragma once

#include "notes/notes.h"

#include <QPointer>
#include <QString>
#include <QWidget>
#include <vector>

namespace tuvvo {

struct FoundControl {
  QString name; ///< a choice with what is chosen among: "Pitch: Stretch"
  Stage stage{};
  QPointer<QWidget> control;
  QPointer<QWidget> root; ///< its stage, or what stands beside it there
};

/// What the controls of a stage lie in: its view, or a part of the window that is there on that
/// stage alone.
struct StagePart {
  QWidget* root;
  Stage stage;
};

/// What can be used now and is in sight or can be revealed, in the order of the parts; where two of
/// a stage have one name, each says what it is about.
/// @param parts  all of one window
[[nodiscard]] std::vector<FoundControl> controlsIn(const std::vector<StagePart>& parts);

/// Brings it into sight. What is pressed is pressed, everything else takes the keyboard. The stage
/// is shown already.
void goTo(const FoundControl& found);

} // namespace tuvvo
