#include "widgets/reveal.h"

#include "widgets/more_panel.h"
#include "widgets/tabs.h"

#include <QScrollArea>
#include <algorithm>

namespace tuvvo {

namespace {

/// Those that were never shown are not hidden, only not there yet.
bool isPutAway(const QWidget& widget) {
  return widget.isHidden() && widget.testAttribute(Qt::WA_WState_ExplicitShowHide);
}

/// From the control up to the root, both among them; empty where it does not lie in it.
QList<QWidget*> wayUp(const QWidget& control, const QWidget& root) {
  QList<QWidget*> way;
  for (auto* at = const_cast<QWidget*>(&control); at; at = belongsTo(*at)) {
    way << at;
    if (at == &root) return way;
  }
  return {};
}

} // namespace

QWidget* belongsTo(const QWidget& control) {
  const auto* more = qobject_cast<const MorePanel*>(&control);
  return more ? more->button() : control.parentWidget();
}

WayTo::WayTo(const QWidget& window) : m_tabs(window.findChildren<Tabs*>()) {}

/// A tab that shows it, if one does and can be pressed.
std::pair<Tabs*, int> WayTo::tabOf(const QWidget& widget) const {
  for (auto* tabs : m_tabs)
    if (const int place = tabs->placeOf(&widget);
        place >= 0 && !isPutAway(*tabs) && !isPutAway(*tabs->tab(place)))
      return {tabs, place};
  return {nullptr, -1};
}

bool WayTo::canReveal(const QWidget& control, const QWidget& root) const {
  const auto way = wayUp(control, root);
  for (const QWidget* each : way) {
    if (each == &root) return true;
    if (isPutAway(*each) && !qobject_cast<const MorePanel*>(each) && !tabOf(*each).first)
      return false;
  }
  return false;
}

void WayTo::reveal(QWidget& control, const QWidget& root) const {
  auto way = wayUp(control, root);
  std::reverse(way.begin(), way.end()); // tabs within tabs: the outer one first
  for (QWidget* each : std::as_const(way)) {
    if (const auto [tabs, place] = tabOf(*each); tabs && tabs->chosen() != place)
      emit tabs->wanted(place);
    if (auto* more = qobject_cast<MorePanel*>(each); more && !more->isVisible()) more->open();
    if (auto* scroll = qobject_cast<QScrollArea*>(each)) scroll->ensureWidgetVisible(&control);
  }
}

} // namespace tuvvo
