#include "keys/keys_stage.h"

#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/tall_scroll.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

KeysStage::KeysStage(Panel& host, const Uses& uses, QWidget* parent) : StageView(host, parent) {
  setFocusPolicy(Qt::StrongFocus);
  m_name = new QLineEdit(this);
  m_name->setAccessibleName(tr("Name of the key"));
  m_name->setFont(theme::font(theme::Type::Title));
  m_name->setFixedWidth(px(170));
  m_about = new QLabel(this);
  m_about->setFont(theme::font(theme::Type::Small));
  m_hear = new Chip(tr("Hear"), tr("Play the chosen key (Ctrl+Space)"), this);
  const std::array<std::pair<QString, QString>, 3> lasts{
      std::pair{tr("To its end"), tr("Sounds to its own end, however short it is struck")},
      {tr("Held"), tr("Sounds while held, or for a pin's length (Ctrl+H)")},
      {tr("Round"), tr("Goes round in its loop while held, or for a pin's length")}};
  for (std::size_t i = 0; i < lasts.size(); ++i) {
    m_lasts[i] = new Chip(lasts[i].first, lasts[i].second, this);
    m_lasts[i]->setCheckable(true);
    connect(m_lasts[i], &QAbstractButton::clicked, this, [this, i] { setLast(int(i)); });
  }
  m_clear = new Chip(tr("Clear"),
                     tr("Take the sound off the key with its hits; can be undone (Delete)"), this);
  auto* top = new QHBoxLayout;
  top->setSpacing(px(6));
  top->addWidget(m_name);
  top->addWidget(m_about, 1);
  for (Chip* chip : {m_hear, m_lasts[0], m_lasts[1], m_lasts[2], m_clear}) top->addWidget(chip);

  m_sound = new SoundPanel(*this, uses.peaks, this);
  auto* soundPage = new QWidget(this);
  auto* soundColumn = new QVBoxLayout(soundPage);
  soundColumn->setContentsMargins(0, 0, 0, 0);
  soundColumn->setSpacing(px(10));
  soundColumn->addLayout(top);
  soundColumn->addWidget(m_sound, 1);
  m_take = new TakePanel(*this, uses.recorder, uses.transport, this);
  m_panels = new QStackedWidget(this);
  m_panels->addWidget(new TallScroll(soundPage, px(200), this));
  m_panels->addWidget(new TallScroll(m_take, px(200), this));
  m_catch = new CatchPanel(
      *this, {uses.catching, uses.player, uses.transport, uses.sifter, uses.reel, uses.auditions},
      this);
  m_panels->addWidget(new TallScroll(m_catch, px(200), this));
  m_controllers = new ControllersPanel(*this, uses.controllers, uses.transport, this);
  m_panels->addWidget(new TallScroll(m_controllers, px(200), this));
  connect(m_catch, &CatchPanel::devicesWanted, this, &KeysStage::devicesWanted);
  auto* tabs = new QHBoxLayout;
  tabs->setSpacing(px(6));
  const std::array<std::pair<QString, QString>, 4> panels{
      std::pair{tr("Sound"), tr("What the chosen key sounds like (Ctrl+1)")},
      {tr("Takes"), tr("Record, catch, practise, and see how you played (Ctrl+2)")},
      {tr("Catch"), tr("Record what comes in: bars, single sounds, long takes (Ctrl+3)")},
      {tr("Controllers"), tr("Pads and keyboards, real and simulated, and the clock (Ctrl+4)")}};
  for (std::size_t i = 0; i < panels.size(); ++i) {
    m_tabs[i] = new Chip(panels[i].first, panels[i].second, this);
    m_tabs[i]->setCheckable(true);
    tabs->addWidget(m_tabs[i]);
    connect(m_tabs[i], &QAbstractButton::clicked, this, [this, i] { openPanel(int(i)); });
  }
  tabs->addStretch(1);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(px(20), px(10), px(14), px(10));
  all->setSpacing(px(8));
  all->addLayout(tabs);
  all->addWidget(m_panels, 1);
  openPanel(0);

  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    const Key* key = findKey(project(), selection().key);
    const std::string typed = m_name->text().trimmed().toStdString();
    if (!key || typed == nameOf(project(), *key)) return; // still the one it makes itself
    change(tr("Name a key"), [&](Key& k) { k.name = typed; });
  });
  connect(m_name, &QLineEdit::returnPressed, this, [this] { setFocus(); });
  addCommands();
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &KeysStage::refresh);
  refresh();
}

void KeysStage::addCommands() {
  auto* hearIt = addCommand(tr("Hear the key"), QKeySequence(Qt::CTRL | Qt::Key_Space),
                            [this] { playKey(selection().key, 0.9); });
  addCommand(tr("To its end, held or round"), QKeySequence(Qt::CTRL | Qt::Key_H), [this] {
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
  for (std::size_t i = 0; i < m_tabs.size(); ++i) m_tabs[i]->setChecked(int(i) == panel);
}

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
  m_name->setEnabled(key);
  for (Chip* chip : {m_hear, m_clear, m_lasts[0], m_lasts[1], m_lasts[2]}) chip->setEnabled(key);
  if (!m_name->hasFocus())
    m_name->setText(key ? QString::fromStdString(nameOf(project(), *key)) : tr("No key"));
  QString about;
  if (source)
    about = key->sound.cut != 0 ? tr("a cut of %1").arg(QString::fromStdString(source->name))
            : source->kit       ? tr("from the kit")
                                : tr("all of %1").arg(QString::fromStdString(source->name));
  if (key && !key->layers.empty())
    about += tr(", and %1").arg(counted(qint64(key->layers.size()), tr("layer"), tr("layers")));
  m_about->setText(about);
  theme::style(m_about,
               QStringLiteral("color:%1; padding-left:6px").arg(theme::colours().quiet.name()));
  if (!key) return;
  const int lasts = key->loop.on ? 2 : key->gate ? 1 : 0;
  for (int i = 0; i < 3; ++i) m_lasts[std::size_t(i)]->setChecked(i == lasts);
}

void KeysStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
