#include "keys/keys_stage.h"
#include "session/music_text.h"

#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/empty_place.h"
#include "widgets/segments.h"
#include "widgets/stage_head.h"
#include "widgets/tabs.h"
#include "widgets/tall_scroll.h"

#include <QLineEdit>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

KeysStage::KeysStage(Panel& host, const Uses& uses, QWidget* parent) : StageView(host, parent) {
  setFocusPolicy(Qt::StrongFocus);
  m_head = new StageHead(this);
  m_head->say(tr("Keys"), {});
  m_tabs = m_head->addTabs(tr("Of the keys"));
  m_tabs->add(tr("Sound"), tr("What the chosen key sounds like (Ctrl+1)"));
  m_tabs->add(tr("Takes"), tr("Record, keep, practise, and see how you played (Ctrl+2)"));
  m_tabs->add(tr("Catch"), tr("Record what comes in: bars, single sounds, long takes (Ctrl+3)"));
  m_tabs->add(tr("Controllers"),
              tr("Pads and keyboards, real and simulated, and the clock (Ctrl+4)"));
  connect(m_tabs, &Tabs::wanted, this, &KeysStage::openPanel);
  m_head->addStretch();
  m_next = m_head->addNext(tr("Play it in"), tr("Record what you play into the pattern (Ctrl+R)"));
  m_next->setSign(Sign::Record);
  m_next->setCheckable(true);
  connect(m_next, &QAbstractButton::clicked, this,
          [&recorder = uses.recorder] { recorder.toggleRecord(); });
  connect(&uses.recorder, &Recorder::changed, this, [this, &recorder = uses.recorder] {
    m_next->setChecked(recorder.recording());
    m_next->setSaid(recorder.recording() ? tr("End the take") : tr("Play it in"),
                    m_next->toolTip());
  });
  m_panels = new QStackedWidget(this);
  m_panels->addWidget(new TallScroll(makeSoundPage(uses.peaks), px(200), this));
  m_take = new TakePanel(*this, uses.recorder, uses.transport, this);
  m_panels->addWidget(new TallScroll(m_take, px(200), this));
  m_catch = new CatchPanel(*this,
                           {uses.catching, uses.player, uses.transport, uses.sifter, uses.reel,
                            uses.auditions, uses.peaks},
                           this);
  m_panels->addWidget(new TallScroll(m_catch, px(200), this));
  m_controllers = new ControllersPanel(*this, uses.controllers, uses.transport, this);
  m_panels->addWidget(new TallScroll(m_controllers, px(200), this));
  for (int i = 0; i < m_panels->count(); ++i) m_tabs->setShows(i, m_panels->widget(i));
  connect(m_catch, &CatchPanel::devicesWanted, this, &KeysStage::devicesWanted);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(px(20), px(12), px(12), px(12));
  all->setSpacing(px(8));
  all->addWidget(m_head);
  all->addWidget(m_panels, 1);
  openPanel(0);
  addCommands();
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &KeysStage::refresh);
  refresh();
}

QWidget* KeysStage::makeSoundPage(PeaksCache& peaks) {
  auto* row = new ControlRow(this);
  m_name = new QLineEdit(row);
  m_name->setAccessibleName(tr("Name of the key"));
  m_name->setFont(theme::font(theme::Type::Strong));
  m_name->setFixedWidth(px(170));
  m_about = new Label(theme::Type::Small, theme::Ink::Quiet, row);
  m_about->setLeast(60);
  m_hear = new Button(Sign::Hear, tr("Hear"), tr("Play the chosen key (Ctrl+Space)"), row);
  m_lasts = new Segments(tr("How long it lasts"), Segments::Picks::One, row);
  m_lasts->add(tr("To its end"), tr("Sounds to its own end, however short it is played"));
  m_lasts->add(tr("Held"), tr("Sounds while held, or for a hit's length (Ctrl+H)"));
  m_lasts->add(tr("Loop"), tr("Goes round in its loop while held, or for a hit's length"));
  connect(m_lasts, &Segments::wanted, this, &KeysStage::setLast);
  m_clear = new Button(Sign::Remove, tr("Clear"),
                       tr("Take the sound off the key with its hits; can be undone (Delete)"), row);
  m_clear->setWeight(Button::Weight::Danger);
  using Stays = ControlRow::Stays;
  row->add(m_name, Stays::Always);
  row->add(m_about, Stays::Always);
  row->addStretch();
  row->add(m_lasts);
  row->add(m_hear, Stays::Always);
  row->add(m_clear, Stays::UnderMore);
  m_sound = new SoundPanel(*this, peaks, this);
  m_soundPage = new QWidget(this);
  auto* work = new QVBoxLayout(m_soundPage);
  work->setContentsMargins(0, 0, 0, 0);
  work->setSpacing(px(8));
  work->addWidget(row);
  work->addWidget(m_sound, 1);
  m_empty = new EmptyPlace(this);
  m_empty->say(tr("No key is chosen"),
               tr("Press a key that holds a sound, or put a source of the crate on one."));
  connect(m_empty->addWay(Sign::None, tr("Choose a source"), tr("Go to the crate (F1)")),
          &QAbstractButton::clicked, this, [this] { emit goTo(Stage::Crate); });
  auto* page = new QWidget(this);
  auto* column = new QVBoxLayout(page);
  column->setContentsMargins(0, 0, 0, 0);
  column->addWidget(m_soundPage);
  column->addWidget(m_empty);
  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    const Key* key = findKey(project(), selection().key);
    const std::string typed = m_name->text().trimmed().toStdString();
    if (!key || withoutSigns(typed) == withoutSigns(nameOf(project(), *key)))
      return; // still the one it makes itself
    change(tr("Name a key"), [&](Key& k) { k.name = typed; });
  });
  connect(m_name, &QLineEdit::returnPressed, this, [this] { setFocus(); });
  return page;
}

void KeysStage::addCommands() {
  auto* hearIt = addCommand(tr("Hear the key"), QKeySequence(Qt::CTRL | Qt::Key_Space),
                            [this] { playKey(selection().key, 0.9); });
  addCommand(tr("To its end, held or looped"), QKeySequence(Qt::CTRL | Qt::Key_H), [this] {
    if (const Key* key = findKey(project(), selection().key))
      setLast(key->loop.on ? 0 : key->gate ? 2 : 1);
  });
  addCommand(tr("Next choke letter"), QKeySequence(Qt::CTRL | Qt::Key_J),
             [this] { m_sound->nextChoke(); });
  auto* clear = addCommand(tr("Clear the key"), QKeySequence(Qt::Key_Delete), [this] {
    edit(tr("Clear a key"), withoutKey(project(), selection().key));
  });
  addCommand(tr("Mute the part"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_M),
             [this] { flip(tr("Mute"), false); });
  addCommand(tr("Solo the part"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_L),
             [this] { flip(tr("Solo"), true); });
  addCommand(tr("Key to the left"), QKeySequence(Qt::Key_Left), [this] { step(-1, 0); });
  addCommand(tr("Key to the right"), QKeySequence(Qt::Key_Right), [this] { step(1, 0); });
  addCommand(tr("Key above"), QKeySequence(Qt::Key_Up), [this] { step(0, -1); });
  addCommand(tr("Key below"), QKeySequence(Qt::Key_Down), [this] { step(0, 1); });
  addCommand(tr("Sound of the key"), QKeySequence(Qt::CTRL | Qt::Key_1), [this] { openPanel(0); });
  addCommand(tr("Takes"), QKeySequence(Qt::CTRL | Qt::Key_2), [this] { openPanel(1); });
  addCommand(tr("Catch sound"), QKeySequence(Qt::CTRL | Qt::Key_3), [this] { openPanel(2); });
  addCommand(tr("Controllers"), QKeySequence(Qt::CTRL | Qt::Key_4), [this] { openPanel(3); });
  using Group = SoundPanel::Group;
  for (const auto& [text, group] : {std::pair{tr("Show level and tune"), Group::Level},
                                    {tr("Show the envelope"), Group::Envelope},
                                    {tr("Show the filters"), Group::Filter},
                                    {tr("Show the layers"), Group::Layers}})
    addCommand(text, {}, [this, group = group] {
      openPanel(0);
      m_sound->showGroup(group);
    });
  addCommand(tr("Next layer"), QKeySequence(Qt::CTRL | Qt::Key_Down), [this] {
    m_sound->showGroup(Group::Layers);
    m_sound->picture().setLayer(m_sound->picture().layer() + 1);
  });
  addCommand(tr("Layer before"), QKeySequence(Qt::CTRL | Qt::Key_Up), [this] {
    m_sound->showGroup(Group::Layers);
    m_sound->picture().setLayer(m_sound->picture().layer() - 1);
  });
  connect(m_hear, &QAbstractButton::clicked, hearIt, &QAction::trigger);
  connect(m_clear, &QAbstractButton::clicked, clear, &QAction::trigger);
}

void KeysStage::openPanel(int panel) {
  m_panels->setCurrentIndex(panel);
  m_tabs->choose(panel);
  m_next->setVisible(playsKeys()); // catching has a next step of its own
  emit playsKeysChanged();
}

bool KeysStage::playsKeys() const { return m_panels->currentIndex() != kCatchPanel; }

/// 0 to its own end, 1 while held, 2 round in its loop.
void KeysStage::setLast(int how) {
  change(tr("How long a key lasts"), [how](Key& k) {
    k.gate = how == 1;
    k.loop.on = how == 2;
  });
}

/// To the nearest key that holds a sound in that direction.
void KeysStage::step(int columns, int rows) {
  const Key* now = findKey(project(), selection().key);
  if (!now) return;
  int row = int(now->row), column = now->column, page = now->page;
  for (int tries = 0; tries < 8 * 64; ++tries) {
    column += columns;
    row += rows;
    if (row < 0 || row > 3) return;
    if (column < 0 || column >= kColumns) {
      if (Row(row) != Row::Cuts) return;
      page += columns; // the cuts go on over the pages
      if (page < 0 || page >= cutPages(project())) return;
      column = columns > 0 ? 0 : kColumns - 1;
    }
    if (const Key* key = keyAt(project(), Row(row), column, page)) {
      selectKey(key->id);
      playKey(key->id, 0.7);
      return;
    }
  }
}

void KeysStage::change(const QString& name, const std::function<void(Key&)>& what) {
  edit(name, withKeyChanged(project(), selection().key, what));
}

void KeysStage::flip(const QString& name, bool solo) {
  edit(name, withMuteFlipped(project(), selection().key, Whose::Part, solo));
}

bool KeysStage::showPanel(const QString& name) {
  const QStringList names{QStringLiteral("level"), QStringLiteral("envelope"),
                          QStringLiteral("filters"), QStringLiteral("layers")};
  // "KEY/Panel" chooses a key by its name first.
  const QString key = name.section(QLatin1Char('/'), 0, -2),
                panel = name.section(QLatin1Char('/'), -1);
  for (const auto& each : project().keys)
    if (!key.isEmpty() && QString::fromStdString(nameOf(project(), each)) == key)
      selectKey(each.id);
  const QStringList pages{QString(),
                          QStringLiteral("takes"),
                          QStringLiteral("catch"),
                          QStringLiteral("controllers"),
                          QStringLiteral("sifter"),
                          QStringLiteral("timing")};
  const int page = std::max(0, int(pages.indexOf(panel)));
  openPanel(page == 4 ? 2 : page == 5 ? 1 : page); // the sifter lies under the input
  if (pages.indexOf(panel) > 0) return true;
  if (!names.contains(panel)) return false;
  m_sound->showGroup(SoundPanel::Group(names.indexOf(panel)));
  return true;
}

void KeysStage::refresh() {
  const Key* key = findKey(project(), selection().key);
  const Source* source = key ? findSource(project(), key->sound.source) : nullptr;
  m_soundPage->setVisible(key);
  m_empty->setVisible(!key);
  if (!m_name->hasFocus()) m_name->setText(key ? nameText(project(), *key) : tr("No key"));
  QString about;
  if (source)
    about = key->sound.cut != 0 ? tr("a cut of %1").arg(QString::fromStdString(source->name))
            : source->kit       ? tr("from the kit")
                                : tr("all of %1").arg(QString::fromStdString(source->name));
  if (key && !key->layers.empty())
    about += tr(", and %1").arg(counted(qint64(key->layers.size()), tr("layer"), tr("layers")));
  m_about->setText(about);
  if (key) m_lasts->choose(key->loop.on ? 2 : key->gate ? 1 : 0);
}

void KeysStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
