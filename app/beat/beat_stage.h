// Beat: the pattern's ribbons, and panels for the part's feel, for what is chosen, and for what is
// worked out from sounds: breaks, chords, similarity, the low end.
#pragma once

#include "parts/stage_view.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

class QComboBox;
class QHBoxLayout;
class QLabel;
class QMenu;
class QStackedWidget;

namespace tuvvo {

class Auditions;
class BreakPanel;
class ChangePanel;
class FeelPanel;
class HitChoice;
class HitPanel;
class PrintService;
class RibbonsView;
class FreeSpacePanel;
class TonesPanel;
class Transport;

class BeatStage : public StageView {
  Q_OBJECT
public:
  enum Page { Feels, Hits, Break, Tones, Change, FreeSpace };
  static constexpr std::size_t kPanels = 6;
  BeatStage(Panel& host, Transport& transport, Auditions& auditions, PrintService& printing,
            QWidget* parent);
  [[nodiscard]] RibbonsView& ribbons() { return *m_ribbons; }
  [[nodiscard]] HitChoice& choice() { return *m_choice; }
  void openPanel(int panel);
  [[nodiscard]] BreakPanel& breakPanel() { return *m_break; }
  /// A MIDI file as a new pattern; the chosen key plays what is not percussion.
  void readMidi(const QString& path);
  void writeMidi(const QString& path);
  void copyAsText();
  void pasteAsText();
  /// "feel", "hits" with the off-beats chosen, "break", "bass", "change", "room".
  bool showPanel(const QString& name) override;

protected:
  void showEvent(QShowEvent* event) override;
  void paintEvent(QPaintEvent*) override;

private:
  [[nodiscard]] QHBoxLayout* makeTop();
  [[nodiscard]] QHBoxLayout* makeTabs();
  void connectTop();
  void addCommands();
  void refresh();
  void refreshPanel();
  void refreshFamily(const Pattern& pattern);
  void changePattern(const QString& name, const std::function<void(Pattern&)>& change);
  void addPattern(bool copy);
  void addAlternative();
  void splitAtCursor();
  void joinWithNext();
  void doubleLength();
  void setMeter(const QString& name);
  void askForMidi(bool write);

  PrintService& m_printing;
  RibbonsView* m_ribbons;
  HitChoice* m_choice;
  FeelPanel* m_feel;
  HitPanel* m_hit;
  BreakPanel* m_break;
  TonesPanel* m_tones;
  ChangePanel* m_change;
  FreeSpacePanel* m_room;
  QStackedWidget* m_panels;
  std::array<Chip*, kPanels> m_tabs{};
  QComboBox *m_patterns, *m_meter, *m_grid;
  Slide* m_bars;
  QLabel *m_partName, *m_fresh;
  QHBoxLayout* m_family;
  QList<Chip*> m_alternatives;
  Chip *m_more, *m_inSong;
  bool m_renaming = false;
};

} // namespace tuvvo
