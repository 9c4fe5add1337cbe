#include "shell/found_controls.h"

#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/reveal.h"
#include "widgets/segments.h"
#include "widgets/tabs.h"

#include <QAbstractButton>
#include <QComboBox>
#include <QHash>
#include <QLineEdit>
#include <QRegularExpression>

namespace tuvvo {

namespace {

bool isControl(const QWidget& widget) {
  if (widget.focusPolicy() == Qt::NoFocus || !widget.isEnabled()) return false;
  return !qobject_cast<QComboBox*>(widget.parentWidget()); // a combo's own line
}

/// What it opens is found by itself.
bool opensMore(const QWidget& widget) {
  const auto* row = qobject_cast<const ControlRow*>(widget.parentWidget());
  return row && row->more() == &widget;
}

QString nameOfControl(const QWidget& widget) {
  const auto* button = qobject_cast<const QAbstractButton*>(&widget);
  const QString own = !widget.accessibleName().isEmpty() ? widget.accessibleName()
                      : button                           ? button->text()
                                                         : "";
  const QWidget* group = widget.parentWidget();
  if (own.isEmpty() || !(qobject_cast<const Segments*>(group) || qobject_cast<const Tabs*>(group)))
    return own;
  return QStringLiteral("%1: %2").arg(group->accessibleName(), own);
}

} // namespace

std::vector<FoundControl> controlsIn(QWidget& root, Stage stage) {
  std::vector<FoundControl> found;
  QHash<QString, int> times;
  // What lies under an open More is the window's for so long.
  for (auto* widget : root.window()->findChildren<QWidget*>()) {
    if (!isControl(*widget) || opensMore(*widget)) continue;
    const QString name = nameOfControl(*widget);
    if (name.isEmpty() || !canBeRevealed(*widget, root)) continue;
    ++times[name];
    found.push_back({name, stage, widget, &root});
  }
  // Of two with one name each says what it is about.
  static const QRegularExpression ends(QStringLiteral("[;:(]"));
  for (auto& each : found)
    if (times[each.name] > 1)
      each.name += QStringLiteral(": ") + each.control->toolTip().section(ends, 0, 0).trimmed();
  return found;
}

void goTo(const FoundControl& found) {
  if (!found.control || !found.root) return;
  reveal(*found.control, *found.root);
  if (auto* button = qobject_cast<QAbstractButton*>(found.control)) return button->click();
  found.control->setFocus(Qt::ShortcutFocusReason);
  if (auto* line = qobject_cast<QLineEdit*>(found.control)) line->selectAll();
}

} // namespace tuvvo
