// Against similarity: another last bar, a part that rests, a thin intro; how new the slices are.
#pragma once

#include "beat/vary.h"
#include "panel/panel.h"

#include <QWidget>

namespace tuvvo {

class Button;
class Label;
class RibbonsView;
class Slide;

class ChangePanel : public Panel {
  Q_OBJECT
public:
  ChangePanel(Panel& host, RibbonsView& ribbons, QWidget* parent);
  void refresh();
  void changeLastBar(LastBar way);
  void dropPart();
  void thin();

private:
  [[nodiscard]] PatternPtr pattern() const;

  RibbonsView& m_ribbons;
  std::uint64_t m_seed = 1;
  LastBar m_way = LastBar::Drop;
  /// The change that was made last, as it stood before and after: another throw makes it anew.
  PatternPtr m_before;
  ProjectPtr m_after;
  Button *m_throw, *m_drop;
  Slide *m_bar, *m_keep;
  Label* m_figures;
};

} // namespace tuvvo
