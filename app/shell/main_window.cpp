#include "shell/main_window.h"
#include "parts/choose_sounds.h"
#include "session/controller_service.h"
#include "session/document.h"

#include "beat/beat_stage.h"
#include "crate/crate_stage.h"
#include "cut/cut_stage.h"
#include "keys/keys_stage.h"
#include "print/print_stage.h"
#include "shell/deck.h"
#include "shell/devices_window.h"
#include "shell/finder.h"
#include "shell/header.h"
#include "shell/message_bar.h"
#include "shell/notes_drawer.h"
#include "shell/performance_bar.h"
#include "shell/rail.h"
#include "song/song_stage.h"
#include "theme/theme.h"
#include "widgets/ask_replace.h"
#include "widgets/slide.h"

#include <QApplication>
#include <QCloseEvent>
#include <QComboBox>
#include <QFileDialog>
#include <QHBoxLayout>
#include <QLineEdit>
#include <QMenuBar>
#include <QMimeData>
#include <QSettings>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

namespace {

QString qt(const std::filesystem::path& path) { return QString::fromStdString(path.string()); }

} // namespace

MainWindow::MainWindow(Services& services) : m_services(services), m_root(new Panel(this)) {
  setAcceptDrops(true);
  setFocusPolicy(Qt::StrongFocus);
  showDocument(services, *m_root);
  auto* column = new QVBoxLayout(m_root);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  m_header = new Header(*m_root, services.transport, services.recorder, services.player, m_root);
  m_rail = new Rail(*m_root, services.catching, services.meter, m_root);
  m_deck = new Deck(*m_root,
                    {services.hand, services.recorder, services.player, services.transport,
                     services.peaks, services.controllers},
                    m_root);
  m_handBar = new PerformanceBar(*m_root, services.hand, m_root);
  m_drawer = new NotesDrawer(*m_root, services.notes, services.document, m_root);
  m_stack = new QStackedWidget(m_root);
  makeStages();

  m_messages = new MessageBar(services.jobs, m_root);
  auto* middle = new QVBoxLayout;
  middle->setSpacing(0);
  middle->addWidget(m_stack, 1);
  middle->addWidget(m_messages);
  middle->addWidget(m_handBar);
  middle->addWidget(m_deck);
  auto* row = new QHBoxLayout;
  row->setSpacing(0);
  row->addWidget(m_rail);
  row->addLayout(middle, 1);
  row->addWidget(m_drawer);
  column->addWidget(m_header);
  column->addLayout(row, 1);
  setCentralWidget(m_root);

  m_devices = new DevicesWindow(services.player, services.catching, this);
  connect(static_cast<KeysStage*>(m_views[std::size_t(Stage::Keys)]), &KeysStage::devicesWanted,
          m_devices, &DevicesWindow::open);
  addCommands();
  m_finder = new Finder(m_commands, this);
  connect(m_rail, &Rail::chosen, this, &MainWindow::showStage);
  connect(m_rail, &Rail::findWanted, this, [this] { m_finder->open(); });
  connect(&services, &Services::message, m_messages, &MessageBar::say);
  connect(m_root, &Panel::changed, this, &MainWindow::refreshTitle);
  connect(&services.files, &Files::changed, this, &MainWindow::refreshTitle);
  connect(&services.files, &Files::unsavedFound, this,
          [this](const QString& name, const QString& at) {
            m_messages->offer(tr("“%1” was not saved. It is kept.").arg(name), tr("Open it"),
                              [this, at] { m_services.files.open(at); });
          });
  connect(&services.controllers, &ControllerService::slideMoved, this,
          [this](const QString& name, double share) {
            for (auto* slide : findChildren<Slide*>())
              if (slide->id() == name && slide->isEnabled()) slide->moveToShare(share);
          });
  qApp->installEventFilter(this);
  resize(1280, 800);
  setMinimumSize(900, 600);
  refreshTitle();
  showStage(Stage::Crate);
}

void MainWindow::makeStages() {
  Services& s = m_services;
  auto* keys = new KeysStage(*m_root,
                             {s.peaks, s.player, s.transport, s.recorder, s.controllers, s.catching,
                              s.sifter, s.reel, s.auditions},
                             m_stack);
  m_views = {new CrateStage(*m_root, {s.crate, s.sources, s.auditions, s.peaks, s.player, s.reel},
                            m_stack),
             new CutStage(*m_root,
                          {s.peaks, s.notes.loudness(), s.player, s.transport, s.auditions,
                           s.sources, s.printing},
                          m_stack),
             keys,
             new BeatStage(*m_root, s.transport, s.recorder, s.auditions, s.printing, m_stack),
             new SongStage(*m_root, s.transport, s.meter, m_stack),
             new PrintStage(*m_root, s.meter, s.printing, m_stack)};
  for (StageView* view : m_views) {
    m_stack->addWidget(view);
    connect(view, &StageView::goTo, this, &MainWindow::showStage);
  }
}

QAction* MainWindow::command(const QString& menu, const QString& text, const QKeySequence& keys,
                             std::function<void()> run) {
  auto* action = new QAction(text, this);
  action->setShortcut(keys);
  connect(action, &QAction::triggered, this, std::move(run));
  addAction(action);
  m_commands << action;
  for (QAction* entry : menuBar()->actions())
    if (entry->text() == menu) {
      entry->menu()->addAction(action);
      return action;
    }
  menuBar()->addMenu(menu)->addAction(action);
  return action;
}

void MainWindow::addFileCommands() {
  const QString file = tr("File");
  const auto projects = [this] {
    return m_services.files.folder().empty() ? QString()
                                             : qt(m_services.files.folder().parent_path());
  };
  command(file, tr("New beat"), QKeySequence::New, [this] { m_services.files.startNew(); });
  command(file, tr("Open a project…"), QKeySequence::Open, [this, projects] {
    const QString folder = QFileDialog::getExistingDirectory(
        this, tr("Open a project folder (its name ends in .tuvvo)"), projects());
    if (!folder.isEmpty()) m_services.files.open(folder);
  });
  addRecentMenu();
  command(file, tr("Open the demo"), {}, [this] { m_services.files.startDemo(); });
  command(file, tr("Add sounds…"), QKeySequence(Qt::CTRL | Qt::Key_I),
          [this] { m_services.sources.importFiles(chooseSounds(this)); });
  command(file, tr("Save"), QKeySequence::Save, [this] { m_services.files.save(); });
  command(file, tr("Save as…"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_S), [this, projects] {
    const QString name = QFileDialog::getSaveFileName(this, tr("Save the project as"), projects(),
                                                      tr("Tuvvo project (*.tuvvo)"));
    if (name.isEmpty()) return;
    const QString folder =
        name.endsWith(QLatin1String(".tuvvo")) ? name : name + QStringLiteral(".tuvvo");
    const QStringList lost =
        m_services.files.holdsAnother(folder) ? QStringList(folder) : QStringList();
    askToReplace(this, lost, [this, folder] { m_services.files.saveAs(folder, Replace::Yes); });
  });
  command(file, tr("Quit"), QKeySequence::Quit, [this] { close(); });
  command(tr("Edit"), tr("Undo"), QKeySequence::Undo, [this] { m_services.document.undo(); });
  command(tr("Edit"), tr("Redo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Z),
          [this] { m_services.document.redo(); });
  command(tr("Edit"), tr("Find a command"), QKeySequence(Qt::CTRL | Qt::Key_K),
          [this] { m_finder->open(); });
}

/// What was open, latest first; made anew each time, as other windows open projects too.
void MainWindow::addRecentMenu() {
  m_recentMenu = new QMenu(tr("Open recent"), this);
  for (QAction* entry : menuBar()->actions())
    if (entry->text() == tr("File")) entry->menu()->addMenu(m_recentMenu);
  connect(m_recentMenu, &QMenu::aboutToShow, this, [this] {
    m_recentMenu->clear();
    for (const auto& entry : m_services.files.recent().list()) {
      const QString folder = qt(entry.folder);
      if (entry.folder == m_services.files.folder()) continue;
      QString text =
          tr("%1, %2").arg(entry.name, QLocale().toString(entry.when, QLocale::ShortFormat));
      if (entry.unsaved) text += tr(", not saved");
      QAction* action =
          m_recentMenu->addAction(text.replace(QLatin1Char('&'), QLatin1String("&&")), this,
                                  [this, folder] { m_services.files.open(folder); });
      action->setToolTip(folder);
    }
    if (m_recentMenu->isEmpty())
      m_recentMenu->addAction(tr("Nothing was open before"))->setEnabled(false);
  });
}

void MainWindow::addSoundCommands() {
  const QString sound = tr("Sound");
  command(sound, tr("Play or stop"), QKeySequence(Qt::Key_Space),
          [this] { m_services.transport.togglePlay(); });
  command(sound, tr("Record"), QKeySequence(Qt::CTRL | Qt::Key_R),
          [this] { m_services.recorder.toggleRecord(); });
  command(sound, tr("Catch that"), QKeySequence(Qt::CTRL | Qt::Key_Slash),
          [this] { m_services.recorder.catchThat(); });
  command(sound, tr("Practise two bars"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_P),
          [this] { m_services.recorder.togglePractice(); });
  command(sound, tr("Takes replace what was there"), {},
          [this] { m_services.recorder.setReplaces(!m_services.recorder.replaces()); });
  command(sound, tr("Metronome"), QKeySequence(Qt::CTRL | Qt::Key_M),
          [this] { m_services.transport.setMetronome(!m_services.transport.metronome()); });
  command(sound, tr("Tap the tempo"), QKeySequence(Qt::CTRL | Qt::Key_T),
          [this] { m_services.transport.tapTempo(); });
  command(sound, tr("Pattern or song"), QKeySequence(Qt::CTRL | Qt::Key_L), [this] {
    m_services.transport.setPlays(m_services.transport.plays() == Plays::Song ? Plays::Pattern
                                                                              : Plays::Song);
  });
  command(sound, tr("Silence everything"), QKeySequence(Qt::CTRL | Qt::Key_Period), [this] {
    m_services.transport.stop();
    m_services.player.engine().send(Engine::Command{Engine::Command::Kind::Silence});
  });
  command(sound, tr("Next page of cuts"), QKeySequence(Qt::CTRL | Qt::Key_PageDown),
          [this] { m_root->setPage(m_root->selection().page + 1); });
  command(sound, tr("Page of cuts before"), QKeySequence(Qt::CTRL | Qt::Key_PageUp),
          [this] { m_root->setPage(m_root->selection().page - 1); });
  command(sound, tr("Catch sound, or end it"), QKeySequence(Qt::CTRL | Qt::ALT | Qt::Key_R),
          [this] { m_services.catching.toggle(); });
  command(sound, tr("Devices…"), QKeySequence(Qt::CTRL | Qt::Key_Comma),
          [this] { m_devices->open(); });
}

void MainWindow::addCommands() {
  addFileCommands();
  addSoundCommands();
  for (int s = 0; s < 6; ++s)
    command(tr("View"), tr("Stage: %1").arg(stageName(Stage(s))), QKeySequence(Qt::Key_F1 + s),
            [this, s] { showStage(Stage(s)); });
  command(tr("View"), tr("Fold the notes drawer"), QKeySequence(Qt::CTRL | Qt::Key_D),
          [this] { m_drawer->setOpen(!m_drawer->isOpen()); });
  command(tr("View"), tr("Fold the key deck"), QKeySequence(Qt::CTRL | Qt::Key_B),
          [this] { foldDeck(); });
  command(tr("View"), tr("Dusk or daylight (from the next start)"), {}, [this] {
    QSettings settings;
    const bool day = !settings.value(QStringLiteral("daylight"), theme::isDaylight()).toBool();
    settings.setValue(QStringLiteral("daylight"), day);
    m_messages->say(day ? tr("Daylight from the next start.") : tr("Dusk from the next start."),
                    false);
  });
  for (int s = 0; s < 6; ++s) {
    QMenu* menu = menuBar()->addMenu(stageName(Stage(s)));
    for (QAction* action : m_views[std::size_t(s)]->actions()) {
      // From the menu or the finder the stage comes up first, so that what was done is seen.
      auto* entry = new QAction(action->text(), this);
      entry->setToolTip(action->toolTip());
      connect(entry, &QAction::triggered, this, [this, s, action] {
        showStage(Stage(s));
        action->trigger();
      });
      const QString keys = action->shortcut().toString(QKeySequence::NativeText);
      entry->setText(keys.isEmpty() ? action->text()
                                    : QStringLiteral("%1\t%2").arg(action->text(), keys));
      menu->addAction(entry);
      auto* found =
          new QAction(QStringLiteral("%1: %2").arg(stageName(Stage(s)), action->text()), this);
      connect(found, &QAction::triggered, entry, &QAction::trigger);
      m_commands << found;
    }
  }
}

void MainWindow::showStage(Stage stage) {
  m_stage = stage;
  m_stack->setCurrentWidget(m_views[std::size_t(stage)]);
  m_rail->setStage(stage);
  m_drawer->setStage(stage);
  m_views[std::size_t(stage)]->setFocus();
  arrangeDeck();
}

/// All of it where it is played; its first row where the stage needs the room, or in a low window;
/// away in a very low one. The hand's figures stand over it where there is room for them too.
void MainWindow::arrangeDeck() {
  const bool played = m_stage != Stage::Song && m_stage != Stage::Print;
  const int room = height() < px(560) ? 0 : height() < px(680) || !played ? 1 : kRowCount;
  const int rows = m_deckRows[std::size_t(m_stage)].value_or(room);
  m_deck->setVisible(rows > 0);
  if (rows > 0) m_deck->setRows(rows);
  m_handBar->setVisible(rows == kRowCount && height() >= px(740) && m_stage == Stage::Keys);
}

/// All of it, its first row, none of it, and all of it again.
void MainWindow::foldDeck() {
  const int now = m_deck->isHidden() ? 0 : m_deck->rows();
  m_deckRows[std::size_t(m_stage)] = now == 0 ? kRowCount : now == 1 ? 0 : 1;
  arrangeDeck();
}

bool MainWindow::showPanel(Stage stage, const QString& name) {
  return m_views[std::size_t(stage)]->showPanel(name);
}

void MainWindow::refreshTitle() {
  QString mark;
  if (m_services.files.readOnly())
    mark = tr(" (for looking)");
  else if (m_services.files.unsaved())
    mark = QStringLiteral(" •");
  setWindowTitle(
      QStringLiteral("%1%2 · Tuvvo").arg(QString::fromStdString(m_root->project().name), mark));
}

/// What a controller has to do with a slide.
void MainWindow::offerLearning(Slide& slide, const QPoint& at) {
  const QString name = slide.id();
  if (name.isEmpty()) return;
  auto* menu = new QMenu(this);
  menu->setAttribute(Qt::WA_DeleteOnClose);
  menu->addAction(tr("Move it with a controller"), this,
                  [this, name, said = slide.accessibleName()] {
                    m_services.controllers.learnSlide(name, said);
                  });
  menu->addAction(tr("No controller moves it"), this,
                  [this, name] { m_services.controllers.forgetSlide(name); });
  menu->popup(at);
}

bool MainWindow::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::ContextMenu)
    if (auto* slide = qobject_cast<Slide*>(watched); slide && slide->window() == this) {
      offerLearning(*slide, static_cast<QContextMenuEvent*>(event)->globalPos());
      return true;
    }
  const bool press = event->type() == QEvent::KeyPress,
             release = event->type() == QEvent::KeyRelease;
  const bool override = event->type() == QEvent::ShortcutOverride;
  if (!press && !release && !override) return QMainWindow::eventFilter(watched, event);
  auto* keyEvent = static_cast<QKeyEvent*>(event);
  QWidget* focus = QApplication::focusWidget();
  const bool typing = qobject_cast<QLineEdit*>(focus) || qobject_cast<QComboBox*>(focus);
  const bool ours =
      isActiveWindow() && !QApplication::activePopupWidget() && !QApplication::activeModalWidget();
  const bool plain =
      !(keyEvent->modifiers() & (Qt::ControlModifier | Qt::AltModifier | Qt::MetaModifier));
  if (release) {
    if (watched->isWidgetType() && static_cast<QWidget*>(watched)->window() == this)
      m_deck->keyEvent(*keyEvent, false);
    return QMainWindow::eventFilter(watched, event);
  }
  // Space belongs to the music, so Enter presses whatever button has the focus.
  if (auto* button = qobject_cast<QAbstractButton*>(focus);
      press && ours && button && watched == button &&
      (keyEvent->key() == Qt::Key_Return || keyEvent->key() == Qt::Key_Enter)) {
    button->click();
    return true;
  }
  if (!ours || typing || !plain || (!deckPlaceOf(*keyEvent) && !performanceKeyOf(*keyEvent)))
    return QMainWindow::eventFilter(watched, event);
  if (override) {
    event->accept(); // the deck comes before any shortcut of one letter
    return true;
  }
  // Every widget on the way up sees the event; the first one plays it and nobody else does.
  if (watched->isWidgetType() && static_cast<QWidget*>(watched)->window() == this)
    return m_deck->keyEvent(*keyEvent, true);
  return QMainWindow::eventFilter(watched, event);
}

void MainWindow::dragEnterEvent(QDragEnterEvent* event) {
  if (event->mimeData()->hasUrls()) event->acceptProposedAction();
}

void MainWindow::dropEvent(QDropEvent* event) {
  QStringList files;
  for (const QUrl& url : event->mimeData()->urls()) {
    const QString path = url.toLocalFile();
    if (path.endsWith(QLatin1String(".tuvvo"))) {
      m_services.files.open(path);
      return;
    }
    if (!path.isEmpty()) files << path;
  }
  m_services.sources.importFiles(files);
}

void MainWindow::closeEvent(QCloseEvent* event) {
  // Nothing to ask: the state is kept and comes back at the next start.
  m_services.transport.stop();
  m_services.catching.finish();
  m_services.files.autosaveNow();
  event->accept();
}

void MainWindow::resizeEvent(QResizeEvent* event) {
  QMainWindow::resizeEvent(event);
  m_drawer->setNarrow(width() < px(960));
  arrangeDeck();
}

void MainWindow::changeEvent(QEvent* event) {
  if (event->type() == QEvent::ActivationChange && !isActiveWindow()) m_deck->letAllGo();
  QMainWindow::changeEvent(event);
}

} // namespace tuvvo
