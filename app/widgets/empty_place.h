// What stands where there is nothing yet: what belongs there, and the ways to begin.
#pragma once

#include "widgets/label.h"
#include "widgets/sign.h"

#include <QHBoxLayout>

namespace tuvvo {

class Button;

class EmptyPlace : public QWidget {
  Q_OBJECT
public:
  explicit EmptyPlace(QWidget* parent = nullptr);
  void say(const QString& title, const QString& reason);
  /// A way to begin; the first is the next step. Several stand side by side.
  Button* addWay(Sign sign, const QString& text, const QString& tip);

private:
  Label *m_title, *m_reason;
  QHBoxLayout* m_ways;
};

} // namespace tuvvo
