// A strip over the ribbons: which bars of the pattern are alike, and how much.
#pragma once

#include "beat/similarity.h"
#include "panel/panel.h"

#include <QTimer>
#include <QWidget>

namespace tuvvo {

class RibbonsView;

class AlikeStrip : public Panel {
  Q_OBJECT
public:
  AlikeStrip(Panel& host, RibbonsView& ribbons, QWidget* parent);
  /// "A", "A′" for a bar nearly like A; up to "ZZ".
  [[nodiscard]] static QString letterOf(const BarSimilarity& bar);

protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent* event) override;
  bool event(QEvent* event) override;

private:
  void compare();
  [[nodiscard]] QRectF boxOf(std::size_t bar) const;
  [[nodiscard]] QString tipOf(std::size_t bar) const;

  RibbonsView& m_ribbons;
  QTimer m_soon; ///< bars are compared a little after an edit, so that the edit is seen at once
  PatternPtr m_compared;
  std::vector<BarSimilarity> m_bars;
};

} // namespace tuvvo
