#include "widgets/empty_place.h"

#include "widgets/button.h"

#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

EmptyPlace::EmptyPlace(QWidget* parent)
    : QWidget(parent), m_title(new Label(theme::Type::Title, theme::Ink::Text, this)),
      m_reason(new Label(theme::Type::Body, theme::Ink::Quiet, this)), m_ways(new QHBoxLayout) {
  m_ways->setSpacing(px(8));
  m_ways->addStretch();
  m_ways->addStretch();
  auto* column = new QVBoxLayout(this);
  column->setSpacing(px(12));
  column->addStretch();
  column->addWidget(m_title, 0, Qt::AlignHCenter);
  column->addWidget(m_reason, 0, Qt::AlignHCenter);
  column->addLayout(m_ways);
  column->addStretch();
}

void EmptyPlace::say(const QString& title, const QString& reason) {
  m_title->setText(title);
  m_reason->setText(reason);
  m_reason->setVisible(!reason.isEmpty());
}

Button* EmptyPlace::addWay(Sign sign, const QString& text, const QString& tip) {
  auto* way = new Button(sign, text, tip, this);
  if (m_ways->count() == 2) way->setWeight(Button::Weight::Next);
  m_ways->insertWidget(m_ways->count() - 1, way);
  return way;
}

} // namespace tuvvo
