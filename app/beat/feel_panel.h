// How the chosen part feels: swing, micro-timing, accents, humanising, and a feel that was played.
#pragma once

#include "model/pattern_parameters.h"
#include "panel/panel.h"

#include <QWidget>

class QComboBox;

namespace tuvvo {

class Button;
class RibbonsView;
class Slide;
class Tick;

class FeelPanel : public Panel {
  Q_OBJECT
public:
  FeelPanel(Panel& host, RibbonsView& ribbons, QWidget* parent);
  void refresh();
  /// How new the part's slices are, in words; empty where there are none.
  [[nodiscard]] const QString& novelty() const { return m_novelty; }
  /// Quantises the part's hits for good, by the strength that is set.
  void quantiseNow();

private:
  using Change = std::function<void(Lane&)>;
  void changeLane(const QString& name, const Change& change, bool settled);
  Slide* addSlide(std::string_view id);
  void makeQuantise();
  void makeGroove();
  void makeAccent();
  void makeLength();
  void chooseGroove(int index);
  void fillGrooves(const Feel& feel);
  [[nodiscard]] const Lane* lane() const;

  RibbonsView& m_ribbons;
  std::vector<std::pair<Slide*, const FeelParameter*>> m_slides;
  QString m_novelty;
  QComboBox *m_accent, *m_groove;
  Slide *m_quantise, *m_length;
  Tick* m_takes;
  Button* m_dice;
};

} // namespace tuvvo
