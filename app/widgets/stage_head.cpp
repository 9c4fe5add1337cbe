#include "widgets/stage_head.h"

#include "widgets/button.h"
#include "widgets/label.h"
#include "widgets/tabs.h"

namespace tuvvo {

StageHead::StageHead(QWidget* parent)
    : ControlRow(parent), m_title(new Label(theme::Type::Title, theme::Ink::Text, this)),
      m_facts(new Label(theme::Type::Small, theme::Ink::Quiet, this)) {
  m_title->setLeast(80);
  m_facts->setLeast(40);
  add(m_title, Stays::Always);
  add(m_facts, Stays::Always);
}

void StageHead::say(const QString& title, const QString& facts) {
  m_title->setText(title);
  m_title->setVisible(!title.isEmpty());
  m_facts->setText(facts);
  m_facts->setVisible(!facts.isEmpty());
}

Tabs* StageHead::addTabs(const QString& name) {
  auto* tabs = new Tabs(name, this);
  add(tabs, Stays::Always);
  return tabs;
}

Button* StageHead::addNext(const QString& text, const QString& tip) {
  auto* next = new Button(text, tip, this);
  next->setWeight(Button::Weight::Next);
  add(next, Stays::Always);
  return next;
}

} // namespace tuvvo
