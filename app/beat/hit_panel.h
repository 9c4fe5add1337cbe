// Everything a hit can do, for all that are chosen.
#pragma once

#include "beat/hit_choice.h"
#include "model/pattern_parameters.h"
#include "panel/panel.h"

#include <QWidget>

class QComboBox;

namespace tuvvo {

class Button;
class Label;
class Tick;
class RibbonsView;
class Slide;

class HitPanel : public Panel {
  Q_OBJECT
public:
  HitPanel(Panel& host, HitChoice& choice, RibbonsView& ribbons, QWidget* parent);
  void refresh();

private:
  Slide* addSlide(std::string_view id);
  [[nodiscard]] QWidget* chooseRow();
  [[nodiscard]] QWidget* figureRow();

  HitChoice& m_choice;
  RibbonsView& m_ribbons;
  std::vector<std::pair<Slide*, const HitParameter*>> m_slides;
  std::vector<QWidget*> m_needHits;
  QWidget* m_figures; ///< there for chosen hits
  Label* m_what;
  QComboBox *m_class, *m_step;
  Tick* m_reversed;
  Button *m_paste, *m_repeat;
};

} // namespace tuvvo
