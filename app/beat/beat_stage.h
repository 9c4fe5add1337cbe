// Beat: the pattern's ribbons, and leaves for the part's feel and for what is chosen.
#pragma once

#include "shell/stage_view.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

class QComboBox;
class QHBoxLayout;
class QLabel;
class QMenu;
class QStackedWidget;

namespace tuvvo {

class FeelLeaf;
class PinChoice;
class PinLeaf;
class RibbonsView;

class BeatStage : public StageView {
  Q_OBJECT
public:
  enum Leaf { Feels, Pins };
  BeatStage(Session& session, QWidget* parent);
  [[nodiscard]] RibbonsView& ribbons() { return *m_ribbons; }
  [[nodiscard]] PinChoice& choice() { return *m_choice; }
  void openLeaf(int leaf);
  /// A MIDI file as a new pattern; the chosen key plays what is not percussion.
  void readMidi(const QString& path);
  void writeMidi(const QString& path);
  /// "feel", or "pins" with the off-beats chosen.
  bool showLeaf(const QString& name) override;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  [[nodiscard]] QHBoxLayout* makeTop();
  [[nodiscard]] QHBoxLayout* makeTabs();
  void connectTop();
  void addCommands();
  void refresh();
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
  PinChoice* m_choice;
  FeelLeaf* m_feel;
  PinLeaf* m_pin;
  QStackedWidget* m_leaves;
  std::array<Chip*, 2> m_tabs{};
  QComboBox *m_patterns, *m_meter, *m_grid;
  Slide* m_bars;
  QLabel *m_partName, *m_fresh;
  QHBoxLayout* m_family;
  QList<Chip*> m_alternatives;
  Chip *m_more, *m_inSong;
  bool m_renaming = false;
};

} // namespace tuvvo
