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
#include <algorithm>

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
  QString own = !widget.accessibleName().isEmpty() ? widget.accessibleName()
                : button                           ? button->text()
                                                   : "";
  const QWidget* group = widget.parentWidget();
  if (own.isEmpty() || !(qobject_cast<const Segments*>(group) || qobject_cast<const Tabs*>(group)))
    return own;
  return QStringLiteral("%1: %2").arg(group->accessibleName(), own);
}

} // namespace

std::vector<FoundControl> controlsIn(const std::vector<StagePart>& parts) {
  if (parts.empty()) return {};
  const QWidget& window = *parts.front().root->window();
  const WayTo way(window);
  std::vector<std::vector<FoundControl>> found(parts.size());
  // What lies under an open More is the window's for so long, and belongs to its part all the same.
  for (auto* widget : window.findChildren<QWidget*>()) {
    if (!isControl(*widget) || opensMore(*widget)) continue;
    const QString name = nameOfControl(*widget);
    auto part = parts.end();
    for (const QWidget* up = widget; up && part == parts.end(); up = belongsTo(*up))
      part = std::find_if(parts.begin(), parts.end(),
                          [up](const StagePart& each) { return each.root == up; });
    if (name.isEmpty() || part == parts.end() || !way.canReveal(*widget, *part->root)) continue;
    found[std::size_t(part - parts.begin())].push_back({name, part->stage, widget, part->root});
  }
  // Of two with one name each says what it is about.
  static const QRegularExpression ends(QStringLiteral("[;:(]"));
  std::vector<FoundControl> all;
  for (auto& some : found) {
    QHash<QString, int> times;
    for (const auto& each : some) ++times[each.name];
    for (auto& each : some) {
      if (times[each.name] > 1)
        each.name += QStringLiteral(": ") + each.control->toolTip().section(ends, 0, 0).trimmed();
      all.push_back(std::move(each));
    }
  }
  return all;
}

void goTo(const FoundControl& found) {
  if (!found.control || !found.root) return;
  WayTo(*found.root->window()).reveal(*found.control, *found.root);
  if (auto* button = qobject_cast<QAbstractButton*>(found.control)) return button->click();
  found.control->setFocus(Qt::ShortcutFocusReason);
  if (auto* line = qobject_cast<QLineEdit*>(found.control)) line->selectAll();
}

} // namespace tuvvo
