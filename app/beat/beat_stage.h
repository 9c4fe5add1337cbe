// Beat: the pattern's ribbons, and leaves for the part's feel, for what is chosen, and for what is
// worked out from sounds: breaks, chords, sameness, the low end.
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

class BreakLeaf;
class ChangeLeaf;
class FeelLeaf;
class HitChoice;
class HitLeaf;
class RibbonsView;
class RoomLeaf;
class TonesLeaf;

class BeatStage : public StageView {
  Q_OBJECT
public:
  enum Leaf { Feels, Hits, Break, Tones, Change, Room };
  static constexpr std::size_t kLeaves = 6;
  BeatStage(Session& session, QWidget* parent);
  [[nodiscard]] RibbonsView& ribbons() { return *m_ribbons; }
  [[nodiscard]] HitChoice& choice() { return *m_choice; }
  void openLeaf(int leaf);
  [[nodiscard]] BreakLeaf& breakLeaf() { return *m_break; }
  /// A MIDI file as a new pattern; the chosen key plays what is not percussion.
  void readMidi(const QString& path);
  void writeMidi(const QString& path);
  void copyAsText();
  void pasteAsText();
  /// "feel", "hits" with the off-beats chosen, "break", "bass", "change", "room".
  bool showLeaf(const QString& name) override;

protected:
  void showEvent(QShowEvent* event) override;
  void paintEvent(QPaintEvent*) override;

private:
  [[nodiscard]] QHBoxLayout* makeTop();
  [[nodiscard]] QHBoxLayout* makeTabs();
  void connectTop();
  void addCommands();
  void refresh();
  void refreshLeaf();
  void refreshFamily(const Pattern& pattern);
  void changePattern(const QString& name, const std::function<void(Pattern&)>& change);
  void addPattern(bool copy);
  void addAlternative();
  void splitAtCursor();
  void joinWithNext();
  void doubleLength();
  void setMeter(const QString& name);
  void askForMidi(bool write);

  RibbonsView* m_ribbons;
  HitChoice* m_choice;
  FeelLeaf* m_feel;
  HitLeaf* m_hit;
  BreakLeaf* m_break;
  TonesLeaf* m_tones;
  ChangeLeaf* m_change;
  RoomLeaf* m_room;
  QStackedWidget* m_leaves;
  std::array<Chip*, kLeaves> m_tabs{};
  QComboBox *m_patterns, *m_meter, *m_grid;
  Slide* m_bars;
  QLabel *m_partName, *m_fresh;
  QHBoxLayout* m_family;
  QList<Chip*> m_alternatives;
  Chip *m_more, *m_inSong;
  bool m_renaming = false;
};

} // namespace tuvvo
