// Everything a pin can do, for all that are chosen.
#pragma once

#include "beat/pin_choice.h"

#include <QWidget>

class QComboBox;
class QLabel;

namespace tuvvo {

class Chip;
class RibbonsView;
class Slide;

class PinLeaf : public QWidget {
  Q_OBJECT
public:
  PinLeaf(Session& session, PinChoice& choice, RibbonsView& ribbons, QWidget* parent);
  void refresh();

private:
  Slide* addSlide(const QString& label, double low, double high, double usual, double step,
                  int decimals, const QString& unit, const QString& tip,
                  std::function<void(Pin&, double)> set, std::function<double(const Pin&)> get);
  [[nodiscard]] QWidget* chooseRow();
  [[nodiscard]] QWidget* soundRow();
  [[nodiscard]] QWidget* strikeRow();

  Session& m_session;
  PinChoice& m_choice;
  RibbonsView& m_ribbons;
  struct Shown {
    Slide* slide;
    std::function<double(const Pin&)> get;
  };
  std::vector<Shown> m_slides;
  std::vector<QWidget*> m_needPins;
  QLabel* m_what;
  QComboBox *m_class, *m_step;
  Chip *m_reversed, *m_paste, *m_repeat;
};

} // namespace tuvvo
