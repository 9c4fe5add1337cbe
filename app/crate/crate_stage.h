// Crate: the sources of this beat, what was heard in each, what fits.
#pragma once

#include "shell/stage_view.h"
#include "widgets/chip.h"

class QComboBox;
class QLineEdit;
class QListWidget;

namespace tuvvo {

class SourceCard;

class CrateStage : public StageView {
  Q_OBJECT
public:
  CrateStage(Session& session, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refill();
  void refreshCard();
  void correctTempo(double factor);
  void tapSource();

  QListWidget* m_list;
  SourceCard* m_card;
  Chip *m_add, *m_kit, *m_hear, *m_half, *m_double, *m_tap, *m_heardAgain, *m_cut, *m_remove;
  QComboBox* m_permission;
  QLineEdit* m_rightsNote;
  TapTempo m_taps;
  QElapsedTimer m_clock;
  bool m_filling = false, m_showKit = false;
};

} // namespace tuvvo
