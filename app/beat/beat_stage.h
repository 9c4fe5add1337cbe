// Beat: the pattern's ribbons, and panels for the part's feel, for what is chosen, and for what is
// worked out from sounds: breaks, chords, similarity, the low end.
#pragma once

#include "parts/stage_view.h"
#include "widgets/slide.h"

class QMenu;
class QStackedWidget;

namespace tuvvo {

class Combo;
class Auditions;
class Button;
class EmptyPlace;
class Label;
class BreakPanel;
class ChangePanel;
class FeelPanel;
class HitChoice;
class HitPanel;
class PrintService;
class Recorder;
class Segments;
class StageHead;
class Tabs;
class RibbonsView;
class FreeSpacePanel;
class TonesPanel;
class Transport;

class BeatStage : public StageView {
  Q_OBJECT
public:
  enum Page { Feels, Hits, Break, Tones, Change, FreeSpace };
  static constexpr std::size_t kPanels = 6;
  BeatStage(Panel& host, Transport& transport, Recorder& recorder, Auditions& auditions,
            PrintService& printing, QWidget* parent);
  [[nodiscard]] RibbonsView& ribbons() { return *m_ribbons; }
  [[nodiscard]] HitChoice& choice() { return *m_choice; }
  void openPanel(int panel);
  [[nodiscard]] BreakPanel& breakPanel() { return *m_break; }
  /// A MIDI file as a new pattern; the chosen key plays what is not percussion.
  void readMidi(const QString& path);
  void writeMidi(const QString& path);
  void copyAsText();
  void pasteAsText();
  [[nodiscard]] double cursorBeats() const override;
  /// "feel", "hits" with the off-beats chosen, "break", "bass", "change", "room".
  bool showPanel(const QString& name) override;

protected:
  void showEvent(QShowEvent* event) override;
  void paintEvent(QPaintEvent*) override;

private:
  void makeHead();
  void makePatternFigures();
  void makeEmpty();
  void addPatternMenu();
  void connectTop();
  void addCommands();
  void refresh();
  void refreshPanel();
  void fitPanel();
  void refreshFamily(const Pattern& pattern);
  void refreshNext(const Pattern* pattern);
  void doNext();
  void layStarterDrums();
  void laySourceOut();
  void changePattern(const QString& name, const std::function<void(Pattern&)>& change);
  void addPattern(bool copy);
  void addAlternative();
  void splitAtCursor();
  void joinWithNext();
  void doubleLength();
  void setMeter(const QString& name);
  void askForMidi(bool write);

  Transport& m_transport;
  Recorder& m_recorder;
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
  StageHead* m_head;
  Tabs* m_tabs;
  EmptyPlace* m_empty; ///< instead of the panels where the pattern has no hit
  Combo *m_patterns, *m_meter, *m_grid;
  Slide* m_bars;
  Label *m_partName, *m_fresh;
  Segments* m_family; ///< the pattern's alternatives
  Button *m_next, *m_more, *m_inSong, *m_laySource;
  bool m_renaming = false;
};

} // namespace tuvvo
