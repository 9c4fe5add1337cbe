// The window's commands: its menus, and what the finder finds.
#include "keys/keys_stage.h"
#include "parts/choose_sounds.h"
#include "shell/devices_window.h"
#include "shell/finder.h"
#include "shell/main_window.h"
#include "shell/notes_drawer.h"
#include "shell/performance_bar.h"
#include "shell/rail.h"
#include "theme/theme.h"
#include "widgets/ask_replace.h"

#include <QApplication>
#include <QFileDialog>
#include <QMenuBar>
#include <QSettings>

namespace tuvvo {

using theme::px;

namespace {

QString qt(const std::filesystem::path& path) { return QString::fromStdString(path.string()); }

} // namespace

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
          [this] { openFinder(); });
}

/// The controls of the stage that is shown come before those of others.
void MainWindow::openFinder() {
  std::vector<StagePart> parts;
  for (int i = 0; i < 6; ++i) {
    const auto stage = Stage((int(m_stage) + i) % 6);
    view(stage).catchUp();
    parts.push_back({&view(stage), stage});
    if (stage == Stage::Keys && height() >= px(kHandBarNeeds) && keys().playsKeys())
      parts.push_back({m_handBar, stage});
  }
  m_finder->open(controlsIn(parts));
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
  command(sound, tr("Keep what I just played"), QKeySequence(Qt::CTRL | Qt::Key_Slash),
          [this] { m_services.recorder.catchThat(); });
  const auto here = [this] {
    const Transport& transport = m_services.transport;
    return transport.playing() ? std::max(0.0, transport.positionBeats())
                               : m_views[std::size_t(m_stage)]->cursorBeats();
  };
  command(sound, tr("Loop from here"), QKeySequence(Qt::CTRL | Qt::Key_BracketLeft),
          [this, here] { m_services.transport.loopFrom(here()); });
  command(sound, tr("Loop to here"), QKeySequence(Qt::CTRL | Qt::Key_BracketRight),
          [this, here] { m_services.transport.loopTo(here()); });
  command(sound, tr("Loop the last bar"), QKeySequence(Qt::CTRL | Qt::Key_Backslash),
          [this, here] { m_services.transport.loopLastBar(here()); });
  command(sound, tr("Loop all of it again"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Backslash),
          [this] { m_services.transport.loopAll(); });
  command(sound, tr("Practise two bars, or those that are looped"),
          QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_P),
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
  command(tr("View"), tr("Dusk or daylight"), {}, [] {
    theme::setDaylight(*qApp, !theme::isDaylight());
    QSettings().setValue(QStringLiteral("daylight"), theme::isDaylight());
  });
  addStageCommands();
  command(tr("Help"), tr("Take the tour"), {}, [this] { startTour(); });
}

/// The stages' own commands: a menu each, and in the finder by the stage's name.
void MainWindow::addStageCommands() {
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

} // namespace tuvvo
