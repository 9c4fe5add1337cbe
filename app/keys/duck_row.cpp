#include "keys/duck_row.h"

#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/parameter_text.h"

namespace tuvvo {

using theme::px;

DuckRow::DuckRow(Panel& host, QWidget* parent) : Panel(host, parent) {
  auto* row = ControlRow::in(this);
  using Stays = ControlRow::Stays;
  const auto word = [&](const QString& text) {
    auto* label = new Label(theme::Type::Small, theme::Ink::Quiet, this);
    label->setText(text);
    row->add(label, Stays::Always);
    m_words.push_back(label);
  };
  const auto slide = [&](const DuckParameter& figure) {
    const QString name = nameOf(figure.parameter);
    auto* made = slideFor(figure.parameter, this, QStringLiteral("part."));
    made->setLabel(QString()); // a word stands before it
    made->setAccessibleName(name);
    made->setFixedWidth(px(130));
    row->add(made, Stays::Always);
    connect(made, &Slide::changed, this, [this, name, &figure](double v, bool settled) {
      change(
          name, [&](Duck& duck) { figure.set(duck, v); }, name);
      if (settled) settle();
    });
    m_slides.emplace_back(made, &figure);
  };
  word(tr("Duck under"));
  m_by = new Combo(tr("Duck under"),
                   tr("Whenever this part plays, the chosen key's part steps back"), this);
  row->add(m_by, Stays::Always);
  word(tr("by"));
  slide(*findFigure(duckParameters(), "duck-depth"));
  word(tr("back in"));
  slide(*findFigure(duckParameters(), "duck-back"));
  connect(m_by, &QComboBox::activated, this, &DuckRow::choose);
}

void DuckRow::choose(int place) {
  const Id by = m_by->itemData(place).toUInt();
  change(tr("Duck under"), [by](Duck& duck) { duck.by = by; });
}

void DuckRow::change(const QString& name, const std::function<void(Duck&)>& change,
                     const QString& merge) {
  edit(name, withPartChanged(project(), m_part, [&](Part& part) { change(part.duck); }), merge);
}

void DuckRow::show(const Part* part) {
  m_part = part ? part->id : 0;
  m_by->clear();
  m_by->addItem(tr("nothing"), 0);
  for (const auto& other : project().parts)
    if (part && other.id != part->id) m_by->addItem(QString::fromStdString(other.name), other.id);
  const Duck duck = part ? part->duck : Duck{};
  m_by->setCurrentIndex(std::max(0, m_by->findData(duck.by)));
  m_by->setEnabled(part);
  for (std::size_t i = 0; i < m_words.size(); ++i)
    m_words[i]->setEnabled(i == 0 ? part != nullptr : duck.by != 0);
  for (const auto& [slide, figure] : m_slides) {
    slide->setEnabled(duck.by != 0);
    slide->setValue(figure->get(duck));
  }
}

} // namespace tuvvo
