// Beat: the pattern's ribbons, its feel, and which bars are alike.
#pragma once

#include "shell/stage_view.h"
#include "widgets/chip.h"
#include "widgets/slide.h"

class QComboBox;
class QLabel;

namespace tuvvo {

class RibbonsView;

/// A strip of bars; bars that hold the same pins have the same letter and shade.
class AlikeStrip : public QWidget {
  Q_OBJECT
public:
  AlikeStrip(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  Session& m_session;
};

/// For each bar the first bar that is like it: 0 0 0 3 is A A A B.
[[nodiscard]] std::vector<int> barsAlike(const Pattern& pattern, int beatsPerBar);

class BeatStage : public StageView {
  Q_OBJECT
public:
  BeatStage(Session& session, QWidget* parent);
  [[nodiscard]] RibbonsView& ribbons() { return *m_ribbons; }

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void addCommands();
  void refresh();
  void addPattern(bool copy);
  void changeLane(const QString& name, const std::function<void(Lane&)>& change, bool settled);
  void quantiseNow();

  RibbonsView* m_ribbons;
  QComboBox *m_patterns, *m_grid;
  QLabel *m_partName, *m_fresh;
  Slide *m_bars, *m_swing, *m_lean, *m_strength;
  Chip *m_swingWhat, *m_pull, *m_takes;
  bool m_renaming = false;
};

} // namespace tuvvo
