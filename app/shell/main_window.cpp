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
#include "shell/tour.h"
#include "shell/tour_bar.h"
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
  m_deck->setObjectName(QStringLiteral("deck"));
  m_handBar = new PerformanceBar(*m_root, services.hand, m_root);
  m_drawer =
      new NotesDrawer(*m_root, services.notes, services.noteTrial, services.document, m_root);
  m_stack = new QStackedWidget(m_root);
  makeStages();

  m_messages = new MessageBar(services.jobs, m_root);
  m_tour = std::make_unique<Tour>(Tour::Uses{services.document, services.player, services.transport,
                                             services.recorder, services.auditions});
  m_tourBar = new TourBar(*m_tour, this, m_root);
  auto* middle = new QVBoxLayout;
  middle->setSpacing(0);
  middle->addWidget(m_stack, 1);
  middle->addWidget(m_tourBar);
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
  connect(&keys(), &KeysStage::devicesWanted, m_devices, &DevicesWindow::open);
  connect(&keys(), &KeysStage::playsKeysChanged, this, &MainWindow::arrangeDeck);
  auto* crate = static_cast<CrateStage*>(m_views[std::size_t(Stage::Crate)]);
  connect(crate, &CrateStage::demoWanted, &services.files, &Files::startDemo);
  connect(crate, &CrateStage::tourWanted, this, &MainWindow::startTour);
  connect(&services.notes, &NotesService::recordWanted, this, [this](Id source) {
    showStage(Stage::Crate);
    m_root->selectSource(source);
    (void)showPanel(Stage::Crate, QStringLiteral("papers"));
  });
  connect(m_deck, &Deck::playedUnseen, this, &MainWindow::bringDeckBack);
  connect(&services.recorder, &Recorder::changed, this, &MainWindow::arrangeDeck);
  connect(m_tourBar, &TourBar::stageWanted, this, &MainWindow::showStage);
  connect(&services.transport, &Transport::stopped, this, &MainWindow::playWhatIsShown);
  addCommands();
  m_finder = new Finder(m_commands, this);
  connect(m_rail, &Rail::chosen, this, &MainWindow::showStage);
  connect(m_rail, &Rail::findWanted, this, &MainWindow::openFinder);
  connect(m_finder, &Finder::controlWanted, this, [this](const FoundControl& found) {
    showStage(found.stage);
    if (found.root == m_handBar && m_handBar->isHidden()) bringDeckBack();
    goTo(found);
  });
  connect(&services, &Services::message, m_messages, &MessageBar::say);
  connect(m_root, &Panel::changed, this, &MainWindow::refreshTitle);
  // What note values go by that are typed into figures.
  connect(m_root, &Panel::changed, this,
          [this] { setProperty("bpm", m_root->project().tempo.value); });
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

MainWindow::~MainWindow() = default;

KeysStage& MainWindow::keys() {
  return *static_cast<KeysStage*>(m_views[std::size_t(Stage::Keys)]);
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
  for (std::size_t i = 0; i < m_views.size(); ++i) {
    StageView* view = m_views[i];
    view->setAccessibleName(stageName(Stage(i)));
    m_stack->addWidget(view);
    connect(view, &StageView::goTo, this, &MainWindow::showStage);
  }
}

void MainWindow::showStage(Stage stage) {
  m_showsOther = m_showsOther || stage != m_stage;
  m_stage = stage;
  playWhatIsShown();
  m_stack->setCurrentWidget(m_views[std::size_t(stage)]);
  m_rail->setStage(stage);
  m_drawer->setStage(stage);
  m_views[std::size_t(stage)]->setFocus();
  arrangeDeck();
}

void MainWindow::startTour() {
  m_services.files.startDemo();
  m_tour->begin();
}

/// Space plays what the stage shows, until something else is chosen; what plays goes on.
void MainWindow::playWhatIsShown() {
  if (!m_showsOther || m_services.transport.playing()) return;
  m_showsOther = false;
  const bool song = m_stage == Stage::Song || m_stage == Stage::Print;
  m_services.transport.setPlays(song ? Plays::Song : Plays::Pattern);
}

/// All of it where it is played, and while a take is; its first row where the stage needs the room,
/// or in a low window (Crate needs more than Keys: its map lies under the sound); away in a very
/// low one. A key that is played unseen brings it back. The hand's figures stand over it where
/// there is room for them too.
void MainWindow::arrangeDeck() {
  const auto& recorder = m_services.recorder;
  const bool played = m_stage == Stage::Crate || m_stage == Stage::Keys || recorder.recording() ||
                      recorder.practising();
  const bool low = height() < px(m_stage == Stage::Crate ? 760 : 680);
  const int room = height() < px(560) ? 0 : low || !played ? 1 : kRowCount;
  const int rows = m_deckRows[std::size_t(m_stage)].value_or(room);
  m_deck->setVisible(rows > 0);
  if (rows > 0) m_deck->setRows(rows);
  m_handBar->setVisible(rows == kRowCount && height() >= px(kHandBarNeeds) &&
                        m_stage == Stage::Keys && keys().playsKeys());
}

void MainWindow::bringDeckBack() {
  if (height() < px(680)) return;
  m_deckRows[std::size_t(m_stage)] = kRowCount;
  arrangeDeck();
}

/// All of it, its first row, none of it, and all of it again.
void MainWindow::foldDeck() {
  const int now = m_deck->isHidden() ? 0 : m_deck->rows();
  m_deckRows[std::size_t(m_stage)] = now == 0 ? kRowCount : now == 1 ? 0 : 1;
  arrangeDeck();
}

bool MainWindow::showPanel(Stage stage, const QString& name) {
  if (name == QLatin1String("tour")) {
    m_tour->begin();
    return true;
  }
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
