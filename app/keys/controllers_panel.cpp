#include "keys/controllers_panel.h"
#include "session/music_text.h"

#include "formats/smf_notes.h"
#include "keys/controller_picture.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/tick.h"

#include <QFileDialog>
#include <QListWidget>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

ControllersPanel::ControllersPanel(Panel& host, ControllerService& controllers,
                                   Transport& transport, QWidget* parent)
    : Panel(host, parent), m_controllers(controllers), m_transport(transport),
      m_chosen(MidiHub::simulatedName()) {
  m_list = new QListWidget(this);
  m_list->setAccessibleName(tr("Controllers"));
  m_list->setFont(theme::font(theme::Type::Body));
  m_list->setFrameShape(QFrame::NoFrame);
  m_list->setVerticalScrollMode(QAbstractItemView::ScrollPerPixel);
  m_learning = new Label(theme::Type::Strong, theme::Ink::Text, this);
  m_learning->setWraps(true);
  m_hint = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_hint->setText(tr("What you plug in appears here by itself."));
  m_picture = new ControllerPicture(*this, controllers, this);
  auto* settings = new ControlRow(this);
  makeSettings(*settings);
  auto* player = new ControlRow(this);
  makePlayer(*player);
  auto* clock = new ControlRow(this);
  makeClock(*clock);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(8));
  column->addWidget(m_list);
  column->addWidget(m_hint);
  column->addWidget(settings);
  column->addWidget(m_learning);
  column->addWidget(m_picture, 1);
  column->addWidget(player);
  column->addWidget(clock);
  connect(m_list, &QListWidget::currentRowChanged, this, [this](int row) {
    if (m_filling || row < 0 || std::size_t(row) >= m_ports.size()) return;
    m_chosen = m_ports[std::size_t(row)];
    refresh();
  });
  connect(&controllers, &ControllerService::changed, this, &ControllersPanel::refresh);
  connect(this, &Panel::selectionChanged, this, &ControllersPanel::refresh);
  refresh();
}

void ControllersPanel::makeSettings(ControlRow& row) {
  m_used = new Tick(tr("Used"), tr("Listen to this controller whenever it is plugged in"), this);
  m_layout =
      new Combo(tr("What its notes play"), tr("Where its notes lie until they are taught"), this);
  m_layout->addItems({tr("notes as General MIDI drums"), tr("notes along the deck from C2"),
                      tr("notes as pitches of the key")});
  m_fit = new Button(
      tr("Fit velocities"),
      tr("Play it seven times from soft to hard: its velocities follow your hand then"), this);
  m_press = new Tick(tr("Pressure rolls"),
                     tr("Pressing a held pad harder makes its roll louder (aftertouch)"), this);
  m_follow = new Tick(tr("Follow its clock"),
                      tr("Its clock is the beat's tempo, its start and stop are ours"), this);
  m_teach = new Button(tr("Teach the chosen key"),
                       tr("The next note that you play plays the chosen key from then on"), this);
  m_stopTeaching = new Button(tr("Stop teaching"), tr("Wait for nothing any more"), this);
  for (QWidget* w : std::initializer_list<QWidget*>{m_used, m_layout, m_fit, m_press, m_follow,
                                                    m_teach, m_stopTeaching})
    row.add(w);
  const auto change = [this](auto what) {
    if (const auto port = chosen()) m_controllers.change(*port, what);
  };
  connect(m_used, &QAbstractButton::clicked, this, [this, change] {
    change([this](ControllerSettings& s) { s.wanted = m_used->isChecked(); });
  });
  connect(m_layout, &QComboBox::activated, this, [change](int which) {
    change([which](ControllerSettings& s) { s.layout = NoteLayout(which); });
  });
  connect(m_press, &QAbstractButton::clicked, this, [this, change] {
    change([this](ControllerSettings& s) { s.pressRolls = m_press->isChecked(); });
  });
  connect(m_follow, &QAbstractButton::clicked, this, [this, change] {
    change([this](ControllerSettings& s) { s.followClock = m_follow->isChecked(); });
  });
  connect(m_fit, &QAbstractButton::clicked, this, [this] {
    if (const auto port = chosen()) m_controllers.fitCurve(*port);
  });
  connect(m_teach, &QAbstractButton::clicked, this, [this] {
    if (const Key* key = findKey(project(), selection().key))
      m_controllers.learnKey({key->row, key->column});
  });
  connect(m_stopTeaching, &QAbstractButton::clicked, this,
          [this] { m_controllers.stopLearning(); });
}

void ControllersPanel::makePlayer(ControlRow& row) {
  m_playerTitle = new Label(theme::Type::Strong, theme::Ink::Text, this);
  m_playerTitle->setText(tr("Simulated controller"));
  m_figure = new Combo(tr("What the simulated controller plays"), tr("A figure of its own"), this);
  m_figure->addItems({tr("a plain beat"), tr("a busy beat"), tr("a roll on the hats")});
  m_bars = new Slide(QString(), {1, 32, 4, 1, 0}, {}, this);
  m_bars->setId(QStringLiteral("simulated.bars"));
  m_bars->setAccessibleName(tr("Bars it plays"));
  m_bars->setToolTip(tr("How many bars it plays, at the beat's tempo"));
  m_bars->setFormat([](double v) { return counted(qint64(v), tr("bar"), tr("bars")); });
  m_loose = new Slide(QString(), {0, 60, 8, 1, 0}, {}, this);
  m_loose->setId(QStringLiteral("simulated.loose"));
  m_loose->setAccessibleName(tr("How unevenly it plays"));
  m_loose->setFormat([](double v) { return tr("%1 ms uneven").arg(v); });
  m_loose->setToolTip(tr("How unevenly it plays: spread of its timing"));
  m_late = new Slide(QString(), {-60, 60, 0, 1, 0}, {}, this);
  m_late->setId(QStringLiteral("simulated.late"));
  m_late->setAccessibleName(tr("How late it plays"));
  m_late->setFormat([](double v) {
    return v == 0 ? tr("on time") : v > 0 ? tr("%1 ms late").arg(v) : tr("%1 ms early").arg(-v);
  });
  m_late->setToolTip(tr("How late it plays as a whole"));
  m_play = new Button(Sign::Play, tr("Play it"),
                      tr("Play the figure into the deck, as hands would"), this);
  m_play->setCheckable(true);
  m_file = new Button(tr("Play a MIDI file…"), tr("Its notes come as if from a controller"), this);
  m_bars->setFixedWidth(px(100));
  for (Slide* slide : {m_loose, m_late}) slide->setFixedWidth(px(140));
  for (QWidget* w : std::initializer_list<QWidget*>{m_playerTitle, m_figure, m_bars, m_loose,
                                                    m_late, m_play, m_file})
    row.add(w);
  connect(m_play, &QAbstractButton::clicked, this, &ControllersPanel::playFigure);
  connect(m_file, &QAbstractButton::clicked, this, &ControllersPanel::chooseFile);
}

void ControllersPanel::makeClock(ControlRow& row) {
  m_clockTitle = new Label(theme::Type::Strong, theme::Ink::Text, this);
  m_clockTitle->setText(tr("Clock out"));
  m_clockOut =
      new Combo(tr("Send the clock to"), tr("Another device follows tempo, start and stop"), this);
  m_clockOut->setMinimumWidth(px(230));
  row.add(m_clockTitle);
  row.add(m_clockOut);
  connect(m_clockOut, &QComboBox::activated, this, [this](int which) {
    const bool none = which <= 0 || std::size_t(which) > m_outputs.size();
    auto sent =
        m_controllers.hub().sendClockTo(none ? MidiPortName{} : m_outputs[std::size_t(which) - 1]);
    if (sent) return;
    m_clockOut->setCurrentIndex(0);
    emit message(QString::fromStdString(sent.error().text()), true);
  });
}

std::optional<MidiPortName> ControllersPanel::chosen() const {
  for (const auto& port : m_ports)
    if (port == m_chosen) return port;
  return std::nullopt;
}

void ControllersPanel::playFigure() {
  auto& pads = m_controllers.hub().simulated();
  if (pads.playing()) {
    pads.stop();
    return refresh();
  }
  SimulatedController::Player player;
  player.bpm = project().tempo.value;
  player.bars = int(m_bars->value());
  player.looseMs = m_loose->value();
  player.lateMs = m_late->value();
  player.figure = m_figure->currentIndex();
  if (m_transport.playing()) { // it comes in with the next bar
    const double beats = m_transport.positionBeats(), bar = quartersOf(m_transport.meter());
    player.leadInS = (std::ceil(beats / bar) * bar - beats) * 60 / player.bpm;
  }
  pads.play(SimulatedController::played(player));
  refresh();
}

void ControllersPanel::chooseFile() {
  auto* dialog = new QFileDialog(this, tr("Play a MIDI file into the deck"), QString(),
                                 tr("MIDI files (*.mid *.midi *.smf);;All files (*)"));
  dialog->setAttribute(Qt::WA_DeleteOnClose);
  dialog->setFileMode(QFileDialog::ExistingFile);
  connect(dialog, &QFileDialog::fileSelected, this, [this](const QString& path) {
    auto read = readSmf(path.toStdString());
    if (read)
      m_controllers.hub().simulated().play(std::move(read).value());
    else
      emit message(QString::fromStdString(read.error().text()), true);
    refresh();
  });
  dialog->open();
}

void ControllersPanel::refreshList() {
  auto& service = m_controllers;
  const auto inputs = service.hub().inputs();
  m_filling = true;
  m_ports.clear();
  m_list->clear();
  for (const auto& input : inputs) {
    m_ports.push_back(input.port);
    const QString last = service.lastOf(input.port);
    const QString state = !input.trouble.empty() ? QString::fromStdString(input.trouble)
                          : !input.wanted        ? tr("not used")
                          : !input.open          ? tr("not plugged in")
                          : last.isEmpty()       ? tr("ready, nothing has come yet")
                                                 : last;
    QString text = input.port.system == MidiSystem::Simulated
                       ? QString::fromStdString(input.port.name)
                       : tr("%1 (%2)").arg(QString::fromStdString(input.port.name),
                                           QString::fromStdString(nameOf(input.port.system)));
    text += QStringLiteral("   ·   ") + state;
    if (input.lost > 0) text += tr("   ·   %1 messages left out").arg(input.lost);
    auto* item = new QListWidgetItem(text, m_list);
    item->setSizeHint({px(200), px(30)});
    item->setForeground(input.open ? theme::colours().text : theme::colours().quiet);
    if (input.port == m_chosen) m_list->setCurrentItem(item);
  }
  if (m_list->currentRow() < 0 && m_list->count() > 0) {
    m_list->setCurrentRow(0);
    m_chosen = m_ports.front();
  }
  m_list->setFixedHeight(px(30) * std::clamp(m_list->count(), 1, 5) + px(6));
  m_filling = false;
}

void ControllersPanel::showEvent(QShowEvent* event) {
  refreshOutputs();
  refresh();
  QWidget::showEvent(event);
}

void ControllersPanel::refresh() {
  if (!isVisible()) return;
  auto& service = m_controllers;
  const std::size_t before = m_ports.size();
  refreshList();
  if (m_ports.size() != before) refreshOutputs();
  const auto port = chosen();
  m_picture->setPort(port);
  const ControllerSettings settings = port ? service.settings(*port) : ControllerSettings{};
  for (QWidget* w : std::initializer_list<QWidget*>{m_used, m_layout, m_fit, m_press, m_follow})
    w->setEnabled(port.has_value());
  m_used->setChecked(settings.wanted);
  m_layout->setCurrentIndex(int(settings.layout));
  m_press->setChecked(settings.pressRolls);
  m_follow->setChecked(settings.followClock);
  const Key* key = findKey(project(), selection().key);
  m_teach->setEnabled(key);
  m_teach->setSaid(key ? tr("Teach %1").arg(nameText(project(), *key)) : tr("Teach the chosen key"),
                   m_teach->toolTip());
  const QString learning = service.learning();
  m_learning->setText(learning.isEmpty()
                          ? tr("To move a slide by a controller, right-click the slide.")
                          : learning);
  m_learning->setInk(learning.isEmpty() ? theme::Ink::Quiet : theme::Ink::Brass);
  m_stopTeaching->setVisible(!learning.isEmpty());
  const bool plays = service.hub().simulated().playing();
  m_play->setChecked(plays);
  m_play->setSign(plays ? Sign::Stop : Sign::Play);
  m_play->setSaid(plays ? tr("Stop it") : tr("Play it"), m_play->toolTip());
}

void ControllersPanel::refreshOutputs() {
  const QString before = m_clockOut->currentText();
  m_outputs = m_controllers.hub().outputs();
  m_clockOut->clear();
  m_clockOut->addItem(m_outputs.empty() ? tr("no MIDI output") : tr("nowhere"));
  for (const auto& output : m_outputs)
    m_clockOut->addItem(tr("%1 (%2)").arg(QString::fromStdString(output.name),
                                          QString::fromStdString(nameOf(output.system))));
  m_clockOut->setCurrentIndex(std::max(0, m_clockOut->findText(before)));
}

} // namespace tuvvo
