#include "keys/duck_row.h"

#include "model/edits.h"
#include "theme/theme.h"

#include <QHBoxLayout>
#include <QLabel>

namespace tuvvo {

using theme::px;

DuckRow::DuckRow(Panel& host, QWidget* parent) : Panel(host, parent) {
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(px(6));
  const auto word = [&](const QString& text) {
    auto* label = new QLabel(text, this);
    label->setFont(theme::font(theme::Type::Small));
    row->addWidget(label);
    m_words.push_back(label);
  };
  const auto slide = [&](const QString& id, const QString& name, const Slide::Range& range,
                         const QString& unit, const QString& tip) {
    auto* made = new Slide(QString(), range, unit, this);
    made->setId(id);
    made->setAccessibleName(name);
    made->setToolTip(tip);
    made->setFixedWidth(px(130));
    row->addWidget(made);
    return made;
  };
  word(tr("Duck under"));
  m_by = new Combo(tr("Duck under"),
                   tr("Whenever this part is struck, the chosen key's part steps back"), this);
  row->addWidget(m_by);
  word(tr("by"));
  m_depth = slide(QStringLiteral("part.duck-depth"), tr("Duck by"), {0, 40, 9, 0.5, 1}, tr("dB"),
                  tr("How far it steps back"));
  word(tr("back in"));
  m_back = slide(QStringLiteral("part.duck-back"), tr("Back in"), {10, 2000, 140, 5, 0}, tr("ms"),
                 tr("Until it is there again"));
  row->addStretch(1);
  connect(m_by, &QComboBox::activated, this, &DuckRow::choose);
  connect(m_depth, &Slide::changed, this, [this](double v, bool settled) {
    change(
        tr("Duck by"), [v](Duck& duck) { duck.depth = Decibels(v); }, tr("Duck by"));
    if (settled) settle();
  });
  connect(m_back, &Slide::changed, this, [this](double v, bool settled) {
    change(
        tr("Back in"), [v](Duck& duck) { duck.back = Milliseconds(v); }, tr("Back in"));
    if (settled) settle();
  });
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
  for (Slide* slide : {m_depth, m_back}) slide->setEnabled(duck.by != 0);
  m_depth->setValue(duck.depth.value);
  m_back->setValue(duck.back.value);
}

} // namespace tuvvo
