#include "cut/slice_panel.h"

#include "cut/level_panel.h"
#include "cut/out_panel.h"
#include "cut/treat_panel.h"
#include "model/edits.h"
#include "theme/theme.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QTimer>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

SlicePanel::SlicePanel(Panel& host, const Uses& uses, QWidget* parent) : Panel(host, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(2), px(2), px(2), 0);
  column->setSpacing(px(5));
  column->addWidget(makeHead());
  m_pages = {makeSound(),
             makeEdges(),
             makePlaying(),
             m_treat = new TreatPanel(*this, uses.sources, this),
             m_levels = new LevelPanel(*this, uses.loudness, this),
             m_out = new OutPanel(*this, uses.printing, this)};
  for (QWidget* page : m_pages) column->addWidget(page);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &SlicePanel::refresh);
  showPanel(Page::Sound);
  refresh();
}

QWidget* SlicePanel::makeHead() {
  auto* head = new QWidget(this);
  auto* rows = new QVBoxLayout(head);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(px(4));
  m_name = new QLineEdit(head);
  m_name->setAccessibleName(tr("Name of the slice"));
  m_name->setToolTip(tr("Made from bar, beat, hit and chord; type your own, or clear it to go back "
                        "(Ctrl+Shift+E)"));
  m_name->setFont(theme::font(theme::Type::Strong));
  m_name->setFixedWidth(px(150));
  m_about = new QLabel(head);
  m_about->setFont(theme::font(theme::Type::Small));
  m_about->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  auto* first = new QHBoxLayout;
  first->setSpacing(px(8));
  first->addWidget(m_name);
  first->addWidget(m_about, 1);
  const std::array<std::array<QString, 3>, 3> commands{
      {{tr("Cut here"), tr("Cut in the middle of the slice"),
        tr("Cut the chosen slice in its middle (Insert); double-click cuts anywhere")},
       {tr("Downbeat"), tr("First downbeat at this slice"),
        tr("The chosen slice begins on the first downbeat (Ctrl+Home)")},
       {tr("Remove"), tr("Remove the cut"), tr("Remove the chosen cut (Delete)")}}};
  for (const auto& [text, command, tip] : commands) {
    auto* chip = new Chip(text, tip, head);
    first->addWidget(chip);
    connect(chip, &QAbstractButton::clicked, this,
            [this, command = command] { emit commandWanted(command); });
  }
  rows->addLayout(first);
  const std::array<std::array<QString, 2>, kPanels> panels{
      {{tr("Sound"), tr("Level, pan, pitch, filters")},
       {tr("Edges"), tr("Where it starts and ends, fades and envelope")},
       {tr("Playing"), tr("Loop, hold, choke, school and row")},
       {tr("Treat"), tr("Reverse, stutter, isolate and the like; each can be opened again")},
       {tr("Match"), tr("Bring slices to one loudness")},
       {tr("Out"), tr("Write slices for other programs and devices")}}};
  auto* second = new QHBoxLayout;
  second->setSpacing(px(4));
  for (std::size_t i = 0; i < kPanels; ++i) {
    m_panelChips[i] = new Chip(panels[i][0], panels[i][1], head);
    m_panelChips[i]->setCheckable(true);
    second->addWidget(m_panelChips[i]);
    connect(m_panelChips[i], &QAbstractButton::clicked, this, [this, i] { showPanel(Page(i)); });
  }
  second->addStretch();
  rows->addLayout(second);
  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    const auto keys = chosenKeys();
    const std::string typed = m_name->text().trimmed().toStdString();
    for (Id id : keys) {
      const Key* key = findKey(project(), id);
      if (key->sound.cut != selection().cut) continue;
      if (typed != nameOf(project(), *key))
        edit(tr("Name a slice"), withKeyChanged(project(), id, [&](Key& k) { k.name = typed; }));
    }
    refresh();
  });
  connect(m_name, &QLineEdit::returnPressed, this, [this] { parentWidget()->setFocus(); });
  return head;
}

void SlicePanel::elide() {
  m_about->setToolTip(m_where);
  m_about->setText(
      m_about->fontMetrics().elidedText(m_where, Qt::ElideRight, m_about->width() - px(2)));
}

void SlicePanel::resizeEvent(QResizeEvent*) { QTimer::singleShot(0, this, &SlicePanel::elide); }

void SlicePanel::showPanel(Page panel) {
  m_panel = panel;
  for (std::size_t i = 0; i < kPanels; ++i) {
    m_panelChips[i]->setChecked(std::size_t(panel) == i);
    m_pages[i]->setVisible(std::size_t(panel) == i);
  }
}

void SlicePanel::changeKeys(const QString& name, const std::function<void(Key&)>& change) {
  Project next = project();
  for (Id key : chosenKeys()) next = withKeyChanged(std::move(next), key, change);
  edit(name, next, name);
  refresh();
}

/// The last treatment of each, put there or taken away.
void SlicePanel::reverse() {
  const auto keys = chosenKeys();
  if (keys.empty()) return;
  const auto reversed = [](const Key& k) {
    return !k.treatments.empty() && k.treatments.back().is<treat::Reverse>();
  };
  const bool on = !reversed(*findKey(project(), keys.front()));
  changeKeys(tr("Reverse"), [&](Key& k) {
    if (on && !reversed(k))
      k.treatments.push_back({treat::Reverse{}});
    else if (!on && reversed(k))
      k.treatments.pop_back();
  });
  settle();
}

void SlicePanel::editName() {
  m_name->setFocus();
  m_name->selectAll();
}

void SlicePanel::offerTreatments() {
  showPanel(Page::Treat);
  m_treat->offerKinds();
}

void SlicePanel::matchLevels() {
  showPanel(Page::Levels);
  m_levels->matchToMiddle();
}

void SlicePanel::writeSlices() {
  showPanel(Page::Out);
  m_out->askWhere();
}

void SlicePanel::copySettings() {
  for (Id id : chosenKeys())
    if (const Key* key = findKey(project(), id); key->sound.cut == selection().cut) m_copied = *key;
  if (m_copied)
    emit message(tr("Settings of %1 copied. Choose slices and press Ctrl+Shift+V.")
                     .arg(QString::fromStdString(nameOf(project(), *m_copied))),
                 false);
}

void SlicePanel::pasteSettings() {
  if (!m_copied) {
    emit message(tr("No settings were copied yet. Press Ctrl+Shift+C on a slice."), true);
    return;
  }
  const auto keys = chosenKeys();
  edit(tr("Lay settings on %1").arg(counted(qint64(keys.size()), tr("slice"), tr("slices"))),
       withSettingsOf(project(), *m_copied, keys));
}

void SlicePanel::refresh() {
  const Project& project = this->project();
  const Source* s = findSource(project, selection().source);
  const Cut* cut = s ? findCut(*s, selection().cut) : nullptr;
  const Key* key = nullptr;
  const auto keys = chosenKeys();
  for (Id id : keys)
    if (const Key* k = findKey(project, id); cut && k->sound.cut == cut->id) key = k;
  for (const auto& setting : m_settings) {
    setting.slide->setEnabled(key && cut);
    if (key && cut) setting.slide->setValue(setting.get(*key, *cut));
  }
  for (QWidget* w :
       std::initializer_list<QWidget*>{m_reverse, m_loop, m_held, m_choke, m_method, m_row, m_name})
    w->setEnabled(key);
  m_reverse->setChecked(key && !key->treatments.empty() &&
                        key->treatments.back().is<treat::Reverse>());
  m_loop->setChecked(key && key->loop.on);
  m_held->setChecked(key && (key->gate || key->loop.on));
  m_choke->setText(key && key->choke != 0 ? tr("Choke: %1").arg(QChar('a' + key->choke - 1))
                                          : tr("Choke: none"));
  m_method->setCurrentIndex(key && key->method ? int(*key->method) + 1 : 0);
  m_row->setCurrentIndex(key ? int(key->row) : 0);
  refreshTitle(s, cut, key, keys.size());
}

void SlicePanel::refreshTitle(const Source* s, const Cut* cut, const Key* key, std::size_t chosen) {
  if (!m_name->hasFocus())
    m_name->setText(key                    ? QString::fromStdString(nameOf(project(), *key))
                    : s && s->cuts.empty() ? tr("Not cut yet")
                                           : tr("No slice chosen"));
  QString where = s && s->cuts.empty()
                      ? tr("choose a way above: hits for live playing, beats for an even loop")
                      : tr("click one, or use the arrow keys");
  if (cut) {
    const double rate = s->sound->rate().value;
    where = tr("%1 to %2 s · %3 ms")
                .arg(double(cut->start.value) / rate, 0, 'f', 3)
                .arg(double(cut->end.value) / rate, 0, 'f', 3)
                .arg(double((cut->end - cut->start).value) / rate * 1000, 0, 'f', 0);
    if (key && key->row == Row::Cuts)
      where += tr(" · key %1, page %2").arg(key->column + 1).arg(key->page + 1);
    if (chosen > 1) where = tr("and %1 more").arg(chosen - 1) + QStringLiteral(" · ") + where;
  }
  m_where = where;
  elide();
  theme::style(m_about, QStringLiteral("color:%1").arg(theme::colours().quiet.name()));
}

} // namespace tuvvo
