#include "keys/sound_panel.h"
#include "session/music_text.h"

#include "model/bus_parameters.h"
#include "model/edits.h"
#include "parts/choke_choice.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/parameter_text.h"
#include "widgets/tabs.h"
#include "widgets/tick.h"

#include <QGridLayout>
#include <QMenu>
#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

namespace {
constexpr int kColumnsShown = 5;
} // namespace

SoundPanel::SoundPanel(Panel& host, PeaksCache& peaks, QWidget* parent) : Panel(host, parent) {
  m_picture = new KeyPicture(*this, peaks, this);
  auto* groups = new ControlRow(this);
  m_groups = new Tabs(tr("Figures of the key"), groups);
  m_groups->add(tr("Level and tune"), tr("Level, pan, tune, glide, choke"));
  m_groups->add(tr("Envelope"), tr("Attack, hold, decay, sustain, release and how they bend"));
  m_groups->add(tr("Filters"), tr("High-pass, low-pass and the envelope that moves them"));
  m_groups->add(tr("Layers"), tr("Several sounds on one key"));
  connect(m_groups, &Tabs::wanted, this, [this](int group) { showGroup(Group(group)); });
  groups->add(m_groups, ControlRow::Stays::Always);
  groups->addStretch();
  makeControls();
  for (QWidget* w : std::initializer_list<QWidget*>{m_choke, m_way, m_inverted, m_addLayer,
                                                    m_takeAway, m_mono, m_legato})
    groups->add(w);
  m_grid = new QGridLayout;
  m_grid->setHorizontalSpacing(px(12));
  m_grid->setVerticalSpacing(px(6));
  for (int i = 0; i < kColumnsShown; ++i) m_grid->setColumnStretch(i, 1);
  for (auto& field : fields()) {
    auto* slide = slideFor(field.parameter->parameter, this);
    if (field.format) slide->setFormat(field.format);
    connect(slide, &Slide::changed, this, [this, field](double v, bool settled) {
      const int layer = m_picture->layer();
      change(
          field.label, [&](Key& k) { field.parameter->set(k, layer, v); }, settled);
    });
    m_slides.push_back({std::move(field), slide});
  }
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(8));
  column->addWidget(m_picture, 1);
  column->addWidget(groups);
  column->addLayout(m_grid);
  makePartRow();
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &SoundPanel::refresh);
  connect(m_picture, &KeyPicture::layerChosen, this, &SoundPanel::refresh);
  for (const auto& [field, slide] : m_slides) m_groups->setShows(int(field.group), slide);
  for (QWidget* w : std::initializer_list<QWidget*>{m_mono, m_legato, m_choke})
    m_groups->setShows(int(Group::Level), w);
  for (QWidget* w : std::initializer_list<QWidget*>{m_way, m_inverted, m_addLayer, m_takeAway})
    m_groups->setShows(int(Group::Layers), w);
  showGroup(Group::Level);
}

const Key* SoundPanel::key() const { return findKey(project(), selection().key); }

void SoundPanel::makeControls() {
  m_mono = new Tick(tr("One at a time"),
                    tr("A new hit takes the place of the one that sounds; needed for glide"), this);
  m_legato = new Tick(tr("Bend when held over"),
                      tr("Where the key is held, a hit over a held one bends it to the new pitch "
                         "instead of starting anew"),
                      this);
  m_inverted = new Tick(tr("Inverted"),
                        tr("Turns the polarity of the chosen layer, for layers that cancel each "
                           "other's lows"),
                        this);
  m_choke = chokeChoice(tr("Keys with the same choke letter cut each other off (Ctrl+J)"), this);
  m_way = new Combo(tr("Which layers sound"),
                    tr("All of them, or one: by how hard, in turn, or "
                       "at random without repeats"),
                    this);
  m_way->addItems({tr("together"), tr("by velocity"), tr("in turn"), tr("at random")});
  m_addLayer = new Button(Sign::Add, tr("Add a layer"),
                          tr("Lay what another key plays under this one"), this);
  m_addLayer->setOpens(true);
  m_takeAway = new Button(Sign::Remove, tr("Remove the layer"),
                          tr("Take the chosen layer off this key"), this);
  m_takeAway->setWeight(Button::Weight::Danger);
  connect(m_mono, &QAbstractButton::clicked, this,
          [this] { change(tr("One at a time"), [](Key& k) { k.mono = !k.mono; }); });
  connect(m_legato, &QAbstractButton::clicked, this,
          [this] { change(tr("Bend when held over"), [](Key& k) { k.legato = !k.legato; }); });
  connect(m_inverted, &QAbstractButton::clicked, this, [this] {
    change(tr("Polarity of a layer"), [layer = m_picture->layer()](Key& k) {
      LayerPlay& play = playOf(k, layer);
      play.inverted = !play.inverted;
    });
  });
  connect(m_choke, &QComboBox::activated, this,
          [this](int group) { change(tr("Choke"), [group](Key& k) { k.choke = group; }); });
  connect(m_way, &QComboBox::activated, this, [this](int way) {
    if (const Key* k = key())
      edit(tr("Which layers sound"), withLayerMode(project(), k->id, LayerMode(way)));
  });
  connect(m_addLayer, &QAbstractButton::clicked, this, &SoundPanel::offerLayers);
  connect(m_takeAway, &QAbstractButton::clicked, this, &SoundPanel::takeLayerAway);
}

void SoundPanel::makePartRow() {
  auto* row = new ControlRow(this);
  m_partTitle = new Label(theme::Type::Strong, theme::Ink::Text, row);
  m_partTitle->setLeast(80);
  m_partLevel =
      slideFor(findFigure(busParameters(), "level")->parameter, this, QStringLiteral("part."));
  m_partLevel->setLabel(QString()); // the part's name stands before it
  m_partLevel->setAccessibleName(tr("Level of the part"));
  m_partLevel->setFixedWidth(px(130));
  using Stays = ControlRow::Stays;
  row->add(m_partTitle, Stays::Always);
  row->add(m_partLevel, Stays::Always);
  const std::array<QString, 3> whose{tr("Key"), tr("Part"), tr("Row")},
      mutes{tr("Mute the key"), tr("Mute"), tr("Mute the row")},
      solos{tr("Solo the key"), tr("Solo"), tr("Solo the row")};
  for (std::size_t i = 0; i < 3; ++i) {
    const QString of = i == 0   ? tr("the key")
                       : i == 1 ? tr("the part")
                                : tr("every key of this row of the deck");
    m_mutes[i] = new Button(Sign::Mute, mutes[i], tr("Silence %1").arg(of), row);
    m_solos[i] = new Button(Sign::Solo, solos[i],
                            tr("Hear %1 alone, with whatever else is solo").arg(of), row);
    m_mutes[i]->setAccessibleName(tr("Mute: %1").arg(whose[i]));
    m_solos[i]->setAccessibleName(tr("Solo: %1").arg(whose[i]));
    for (Button* button : {m_mutes[i], m_solos[i]}) {
      button->setCheckable(true);
      row->add(button, i == 1 ? Stays::IfThereIsRoom : Stays::UnderMore);
      const bool mute = button == m_mutes[i];
      connect(button, &QAbstractButton::clicked, this, [this, i, mute] {
        edit(mute ? tr("Mute") : tr("Solo"),
             withMuteFlipped(project(), selection().key, Whose(i), !mute));
      });
    }
  }
  connect(m_partLevel, &Slide::changed, this, [this](double v, bool settled) {
    if (const Key* k = key())
      edit(tr("Part level"),
           withPartChanged(project(), k->part, [v](Part& x) { x.bus.level = Decibels(v); }),
           QStringLiteral("part level"));
    if (settled) settle();
  });
  auto* column = static_cast<QVBoxLayout*>(layout());
  column->addWidget(row);
  m_duck = new DuckRow(*this, this);
  column->addWidget(m_duck);
}

void SoundPanel::showGroup(Group group) {
  m_group = group;
  m_picture->showMoves(group == Group::Filter);
  m_groups->choose(int(group));
  int at = 0;
  for (auto& [field, slide] : m_slides) {
    m_grid->removeWidget(slide);
    slide->setVisible(field.group == group);
    if (field.group != group) continue;
    m_grid->addWidget(slide, at / kColumnsShown, at % kColumnsShown);
    ++at;
  }
  for (QWidget* w : std::initializer_list<QWidget*>{m_mono, m_legato, m_choke})
    w->setVisible(group == Group::Level);
  for (QWidget* w : std::initializer_list<QWidget*>{m_way, m_inverted, m_addLayer, m_takeAway})
    w->setVisible(group == Group::Layers);
  refresh();
}

void SoundPanel::change(const QString& name, const std::function<void(Key&)>& what, bool settled) {
  const Id id = selection().key;
  edit(name, withKeyChanged(project(), id, what), name + QString::number(id));
  if (settled) settle();
}

void SoundPanel::addLayer(const SoundRef& sound, const LayerPlay& play) {
  const Key* k = key();
  if (!k) return;
  edit(tr("Add a layer"), withLayer(project(), k->id, {sound, play}));
  if (const Key* now = key()) m_picture->setLayer(int(now->layers.size()));
}

void SoundPanel::nextChoke() {
  change(tr("Choke"), [](Key& k) { k.choke = (k.choke + 1) % 9; });
}

void SoundPanel::takeLayerAway() {
  if (const Key* k = key())
    edit(tr("Take a layer away"), withoutLayer(project(), k->id, std::size_t(m_picture->layer())));
}

/// What other keys play, by row; a copy of this key's own sound first, for a chorus or a flam.
void SoundPanel::offerLayers() {
  const Key* k = key();
  if (!k) return;
  const Project& p = project();
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->addAction(tr("This sound again, 12 ms later"), this, [this, own = k->sound] {
    addLayer(own, {Milliseconds(12), Decibels(-3), {}, 1});
  });
  menu->addAction(tr("This sound again, an octave lower"), this, [this, own = k->sound] {
    addLayer(own, {{}, Decibels(-3), Semitones(-12), 1});
  });
  for (int row = 3; row >= 0; --row) {
    QMenu* of = menu->addMenu(rowText(Row(row)));
    for (const auto& other : p.keys) {
      if (other.row != Row(row) || other.id == k->id || of->actions().size() >= 200) continue;
      of->addAction(nameText(p, other), this,
                    [this, sound = other.sound, tune = other.tune + toSemitones(other.fine),
                     mine = k->tune + toSemitones(k->fine)] {
                      addLayer(sound, {{}, {}, tune - mine, 1}); // as it sounds on its own key
                    });
    }
    of->setEnabled(!of->actions().isEmpty());
  }
  menu->popup(m_addLayer->mapToGlobal(QPoint(0, m_addLayer->height())));
}

void SoundPanel::refresh() {
  const Key* k = key();
  const int layer = m_picture->layer();
  for (auto& [field, slide] : m_slides) {
    slide->setEnabled(k && (!field.parameter->works || field.parameter->works(*k)));
    if (k) slide->setValue(field.parameter->get(*k, layer));
  }
  const bool several = k && !k->layers.empty();
  for (QWidget* w : std::initializer_list<QWidget*>{m_mono, m_legato, m_choke, m_partLevel})
    w->setEnabled(k);
  m_addLayer->setEnabled(k && int(k->layers.size()) + 1 < kMostLayers);
  m_takeAway->setEnabled(several);
  m_way->setEnabled(several);
  m_inverted->setEnabled(several);
  if (k) {
    m_mono->setChecked(k->mono);
    m_legato->setChecked(k->legato);
    m_legato->setEnabled(k->mono);
    m_choke->setCurrentIndex(k->choke);
    m_way->setCurrentIndex(int(k->mode));
    const bool known = layer > 0 && std::size_t(layer) <= k->layers.size();
    m_inverted->setChecked((known ? k->layers[std::size_t(layer) - 1].play : k->own).inverted);
  }
  refreshPartRow();
}

void SoundPanel::refreshPartRow() {
  const Key* k = key();
  const Part* part = k ? findPart(project(), k->part) : nullptr;
  m_partTitle->setText(part ? tr("Part: %1").arg(QString::fromStdString(part->name)) : QString());
  const MuteSolo role = k ? project().roles[std::size_t(k->row)] : MuteSolo{};
  const std::array<MuteSolo, 3> quiet{k ? k->muteSolo : MuteSolo{},
                                      part ? MuteSolo{part->muted, part->solo} : MuteSolo{}, role};
  for (std::size_t i = 0; i < 3; ++i) {
    m_mutes[i]->setEnabled(k && (i != 1 || part));
    m_solos[i]->setEnabled(k && (i != 1 || part));
    m_mutes[i]->setChecked(quiet[i].muted);
    m_solos[i]->setChecked(quiet[i].solo);
  }
  if (part) m_partLevel->setValue(part->bus.level.value);
  m_duck->show(part);
}

} // namespace tuvvo
