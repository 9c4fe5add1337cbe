// The folded drawer: its pages by name along the window's edge, and how many notes there are.
#pragma once

#include "widgets/press.h"

namespace tuvvo {

/// A page's name, upright; the first has the number of notes over it.
class StripTab : public Press {
  Q_OBJECT
public:
  StripTab(const QString& text, const QString& tip, QWidget* parent);
  /// @param number   below 0: none is shown
  /// @param presses  something of it is trouble
  void setNumber(int number, bool presses);
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  int m_number = -1;
  bool m_presses = false;
};

} // namespace tuvvo
