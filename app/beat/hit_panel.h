// Everything a hit can do, for all that are chosen.
#pragma once

#include "beat/hit_choice.h"
#include "model/pattern_parameters.h"
#include "panel/panel.h"
#include "parts/treatment_row.h"

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
  /// Offers the keys that the chosen hits can go to.
  void offerKeys();
  /// Offers treatments for the chosen hits.
  void offerTreatments();

private:
  Slide* addSlide(std::string_view id);
  [[nodiscard]] QWidget* chooseRow();
  [[nodiscard]] QWidget* figureRow();
  [[nodiscard]] QWidget* treatmentRow();
  void changeTreatments(const QString& name, const TreatmentRow::Change& what,
                        const QString& merge);
  [[nodiscard]] std::vector<int> piecesOf(std::size_t treatment) const;

  HitChoice& m_choice;
  RibbonsView& m_ribbons;
  std::vector<std::pair<Slide*, const HitParameter*>> m_slides;
  std::vector<QWidget*> m_needHits;
  QWidget* m_figures; ///< there for chosen hits
  Label* m_what;
  QComboBox *m_class, *m_step;
  Tick* m_reversed;
  Button *m_paste, *m_repeat, *m_send, *m_treat;
  QWidget* m_treated; ///< there for hits with treatments
  TreatmentRow* m_treatments;
  Slide* m_turn; ///< there where they are not treated every time round
  HitOf m_shown; ///< whose treatments are shown
};

} // namespace tuvvo
