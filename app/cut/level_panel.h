// Bringing slices to one loudness, with the figures before and after.
#pragma once

#include "cut/slice_levels.h"
#include "panel/panel.h"
#include "widgets/combo.h"

#include <QWidget>

namespace tuvvo {

class Button;
class Label;

class LevelPanel : public Panel {
  Q_OBJECT
public:
  LevelPanel(Panel& host, LoudnessCache& loudness, QWidget* parent);
  /// The chosen slices where there are several, else all of the source.
  void matchToMiddle();

protected:
  void showEvent(QShowEvent*) override;

private:
  /// The chosen slices where there are several, else all of the source.
  [[nodiscard]] std::vector<Id> keys() const;
  [[nodiscard]] LevelBy by() const { return LevelBy(m_by->currentIndex()); }
  void apply(const QString& name, const Project& next);
  void refresh();

  LoudnessCache& m_loudness;
  Combo* m_by;
  Button *m_median, *m_one, *m_peak, *m_loud;
  Label* m_said;
  QString m_before; ///< figures before the last match, shown until something else changes
  ProjectPtr m_after;
};

} // namespace tuvvo
