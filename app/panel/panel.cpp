#include "panel/panel.h"

#include <QEvent>
#include <utility>

namespace tuvvo {

Panel::Panel(QWidget* parent) : QWidget(parent), m_shown{std::make_shared<Project>(), {}} {}

Panel::Panel(Panel& host, QWidget* parent) : QWidget(parent), m_shown(host.m_shown) {
  connect(&host, &Panel::held, this, &Panel::hold);
  connect(&host, &Panel::changed, this, [this] {
    if (resting())
      m_missedChange = true;
    else
      emit changed();
  });
  connect(&host, &Panel::selectionChanged, this, [this] {
    if (resting())
      m_missedSelection = true;
    else
      emit selectionChanged();
  });
  connect(this, &Panel::editWanted, &host, &Panel::editWanted);
  connect(this, &Panel::settleWanted, &host, &Panel::settleWanted);
  connect(this, &Panel::selectionWanted, &host, &Panel::selectionWanted);
  connect(this, &Panel::playWanted, &host, &Panel::playWanted);
  connect(this, &Panel::message, &host, &Panel::message);
}

bool Panel::event(QEvent* event) {
  const bool handled = QWidget::event(event);
  if (event->type() == QEvent::Show) catchUp();
  return handled;
}

void Panel::catchUp() {
  if (std::exchange(m_missedSelection, false)) emit selectionChanged();
  if (std::exchange(m_missedChange, false)) emit changed();
}

void Panel::hold(const Shown& shown) {
  m_shown = shown;
  emit held(shown);
}

void Panel::take(const Shown& shown) {
  const bool other = shown.project != m_shown.project;
  const bool moved = shown.selection != m_shown.selection;
  hold(shown);
  if (moved) emit selectionChanged();
  if (other) emit changed();
}

} // namespace tuvvo
