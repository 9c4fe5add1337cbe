#include "cut/slice_panel.h"
#include "session/music_text.h"

#include "cut/level_panel.h"
#include "cut/out_panel.h"
#include "cut/treat_panel.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/label.h"
#include "widgets/tabs.h"
#include "widgets/tick.h"

#include <QLineEdit>
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
  for (std::size_t i = 0; i < kPanels; ++i) {
    column->addWidget(m_pages[i]);
    m_tabs->setShows(int(i), m_pages[i]);
  }
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &SlicePanel::refresh);
  showPanel(Page::Sound);
  refresh();
}

QWidget* SlicePanel::makeHead() {
  auto* head = new ControlRow(this);
  m_name = new QLineEdit(head);
  m_name->setAccessibleName(tr("Name of the slice"));
  m_name->setToolTip(tr("Made from bar, beat, hit and chord; type your own, or clear it to go back "
                        "(Ctrl+Shift+E)"));
  m_name->setFont(theme::font(theme::Type::Strong));
  m_name->setFixedWidth(px(150));
  m_about = new Label(theme::Type::Small, theme::Ink::Quiet, head);
  m_about->setLeast(60);
  m_tabs = new Tabs(tr("Of the slice"), head);
  const std::array<std::array<QString, 2>, kPanels> panels{
      {{tr("Sound"), tr("Level, pan, pitch, filters")},
       {tr("Edges"), tr("Where it starts and ends, fades and envelope")},
       {tr("Playing"), tr("Loop, hold, choke, method and row")},
       {tr("Treat"), tr("Reverse, stutter, isolate and the like; each can be opened again")},
       {tr("Match"), tr("Bring slices to one loudness")},
       {tr("Export"), tr("Write slices for other programs and devices")}}};
  for (const auto& [text, tip] : panels) m_tabs->add(text, tip);
  connect(m_tabs, &Tabs::wanted, this, [this](int panel) { showPanel(Page(panel)); });
  head->add(m_name);
  head->add(m_about);
  head->add(m_tabs, Stays::Always);
  head->addStretch();
  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    const auto keys = chosenKeys();
    const std::string typed = m_name->text().trimmed().toStdString();
    for (Id id : keys) {
      const Key* key = findKey(project(), id);
      if (key->sound.cut != selection().cut) continue;
      if (withoutSigns(typed) != withoutSigns(nameOf(project(), *key)))
        edit(tr("Name a slice"), withKeyChanged(project(), id, [&](Key& k) { k.name = typed; }));
    }
    refresh();
  });
  connect(m_name, &QLineEdit::returnPressed, this, [this] { parentWidget()->setFocus(); });
  return head;
}

void SlicePanel::showPanel(Page panel) {
  m_panel = panel;
  m_tabs->choose(int(panel));
  for (std::size_t i = 0; i < kPanels; ++i) m_pages[i]->setVisible(std::size_t(panel) == i);
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
                     .arg(nameText(project(), *m_copied)),
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
  m_choke->setCurrentIndex(key ? key->choke : 0);
  m_method->setCurrentIndex(key && key->method ? int(*key->method) + 1 : 0);
  m_row->setCurrentIndex(key ? int(key->row) : 0);
  refreshTitle(s, cut, key, keys.size());
}

void SlicePanel::refreshTitle(const Source* s, const Cut* cut, const Key* key, std::size_t chosen) {
  if (!m_name->hasFocus())
    m_name->setText(key                    ? nameText(project(), *key)
                    : s && s->cuts.empty() ? tr("Not cut yet")
                                           : tr("No slice chosen"));
  QString where = s && s->cuts.empty()
                      ? tr("choose a way above: hits for live playing, beats for an even loop")
                      : tr("click one, or use the arrow keys");
  if (cut) {
    const double rate = s->sound->rate().value;
    const QString whole = tr("%1 to %2 s")
                              .arg(double(cut->start.value) / rate, 0, 'f', 3)
                              .arg(double(cut->end.value) / rate, 0, 'f', 3);
    where = tr("%1 ms").arg(double((cut->end - cut->start).value) / rate * 1000, 0, 'f', 0);
    if (key && key->row == Row::Cuts) where += tr(" · key %1").arg(key->column + 1);
    m_about->setToolTip(
        key && key->row == Row::Cuts ? tr("%1, page %2").arg(whole).arg(key->page + 1) : whole);
    if (chosen > 1) where = tr("and %1 more").arg(chosen - 1) + QStringLiteral(" · ") + where;
  }
  m_about->setText(where);
}

} // namespace tuvvo
