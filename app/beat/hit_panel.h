// Everything a hit can do, for all that are chosen.
#pragma once

#include "beat/hit_choice.h"
#include "panel/panel.h"

#include <QWidget>

class QComboBox;
class QLabel;

namespace tuvvo {

class Chip;
class RibbonsView;
class Slide;

class HitPanel : public Panel {
  Q_OBJECT
public:
  HitPanel(Panel& host, HitChoice& choice, RibbonsView& ribbons, QWidget* parent);
  void refresh();

private:
  Slide* addSlide(const QString& id, const QString& label, double low, double high, double usual,
                  double step, int decimals, const QString& unit, const QString& tip,
                  std::function<void(Hit&, double)> set, std::function<double(const Hit&)> get);
  [[nodiscard]] QWidget* chooseRow();
  [[nodiscard]] QWidget* soundRow();
  [[nodiscard]] QWidget* strikeRow();

  HitChoice& m_choice;
  RibbonsView& m_ribbons;
  struct Shown {
    Slide* slide;
    std::function<double(const Hit&)> get;
  };
  std::vector<Shown> m_slides;
  std::vector<QWidget*> m_needHits;
  QLabel* m_what;
  QComboBox *m_class, *m_step;
  Chip *m_reversed, *m_paste, *m_repeat;
};

} // namespace tuvvo
