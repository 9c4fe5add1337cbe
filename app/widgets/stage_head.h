// The first line of a stage: what is looked at, its views, and the one next step.
#pragma once

#include "widgets/control_row.h"

namespace tuvvo {

class Label;
class Tabs;

/// Title and facts at the left, views after them, actions at the right.
class StageHead : public ControlRow {
  Q_OBJECT
public:
  explicit StageHead(QWidget* parent = nullptr);
  /// @param facts  in quiet ink after it; both may be empty
  void say(const QString& title, const QString& facts);
  /// Makes the views; before any action.
  Tabs* addTabs(const QString& name);
  /// Makes the next step; it stays in sight.
  Button* addNext(const QString& text, const QString& tip);

private:
  Label *m_title, *m_facts;
};

} // namespace tuvvo
