// The bench: one window, six stages, nothing modal between them.
#pragma once

#include "parts/stage_view.h"
#include "session/services.h"

#include <QMainWindow>
#include <QStackedWidget>

namespace tuvvo {

class Header;
class KeysStage;
class Rail;
class Deck;
class PerformanceBar;
class Slide;

class NotesDrawer;
class Finder;
class DevicesWindow;
class MessageBar;
class Tour;
class TourBar;

class MainWindow : public QMainWindow {
  Q_OBJECT
public:
  explicit MainWindow(Services& services);
  ~MainWindow() override;

  void showStage(Stage stage);
  /// See StageView::showPanel(); "tour" is on every stage.
  bool showPanel(Stage stage, const QString& name);
  [[nodiscard]] Stage stage() const { return m_stage; }
  [[nodiscard]] Deck& deck() { return *m_deck; }
  [[nodiscard]] DevicesWindow& devices() { return *m_devices; }
  [[nodiscard]] StageView& view(Stage stage) { return *m_views[std::size_t(stage)]; }

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void closeEvent(QCloseEvent* event) override;
  void changeEvent(QEvent* event) override;
  void resizeEvent(QResizeEvent* event) override;

private:
  static constexpr int kHandBarNeeds = 740; ///< of the window's height, as designed
  void makeStages();
  [[nodiscard]] KeysStage& keys();
  QAction* command(const QString& menu, const QString& text, const QKeySequence& keys,
                   std::function<void()> run);
  void addCommands();
  void openFinder();
  void addFileCommands();
  void addStageCommands();
  void addRecentMenu();
  void addSoundCommands();
  void startTour();
  void playWhatIsShown();
  void refreshTitle();
  void offerLearning(Slide& slide, const QPoint& at);
  /// How much of the deck there is room for, or as it was asked for on this stage.
  void arrangeDeck();
  void foldDeck();
  void bringDeckBack();

  Services& m_services;
  Panel* m_root; ///< all panels lie in it
  Stage m_stage = Stage::Crate;
  Header* m_header;
  Rail* m_rail;
  Deck* m_deck;
  PerformanceBar* m_handBar;
  NotesDrawer* m_drawer;
  Finder* m_finder = nullptr;
  DevicesWindow* m_devices;
  QStackedWidget* m_stack;
  std::array<StageView*, 6> m_views{};
  QList<QAction*> m_commands;
  QMenu* m_recentMenu = nullptr;
  MessageBar* m_messages;
  std::unique_ptr<Tour> m_tour;
  TourBar* m_tourBar;
  bool m_showsOther = false;                    ///< another stage since the music was started
  std::array<std::optional<int>, 6> m_deckRows; ///< asked for, by stage
};

} // namespace tuvvo
