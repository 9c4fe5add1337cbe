// How the chosen part feels: swing, micro-timing, accents, humanising, and a feel that was played.
#pragma once

#include "panel/panel.h"

#include <QWidget>

class QComboBox;

namespace tuvvo {

class Chip;
class RibbonsView;
class Slide;

class FeelPanel : public Panel {
  Q_OBJECT
public:
  FeelPanel(Panel& host, RibbonsView& ribbons, QWidget* parent);
  void refresh();
  /// How new the part's slices are, in words; empty where there are none.
  [[nodiscard]] const QString& newness() const { return m_newness; }
  /// Pulls the part's hits to the grid for good, by the strength of its pull.
  void quantiseNow();

private:
  using Change = std::function<void(Lane&)>;
  void changeLane(const QString& name, const Change& change, bool settled);
  Slide* addSlide(const QString& id, const QString& label, double low, double high, double usual,
                  const QString& unit, const QString& tip, std::function<void(Lane&, double)> set,
                  std::function<double(const Lane&)> get);
  void makeQuantise();
  void makeGroove();
  void makeLength();
  void chooseGroove(int index);
  void fillGrooves(const Feel& feel);
  [[nodiscard]] const Lane* lane() const;

  RibbonsView& m_ribbons;
  struct Shown {
    Slide* slide;
    std::function<double(const Lane&)> get;
  };
  std::vector<Shown> m_slides;
  QString m_newness;
  QComboBox *m_accent, *m_groove;
  Slide *m_quantise, *m_length;
  Chip *m_takes, *m_dice;
};

} // namespace tuvvo
