// A strip over the ribbons: which bars of the pattern are alike, and how much; bars are looped on
// it.
#pragma once

#include "beat/similarity.h"
#include "panel/panel.h"
#include "parts/loop_drag.h"

#include <QTimer>
#include <QWidget>

namespace tuvvo {

class RibbonsView;

class AlikeStrip : public Panel {
  Q_OBJECT
public:
  AlikeStrip(Panel& host, RibbonsView& ribbons, Transport& transport, QWidget* parent);
  /// "A", "A′" for a bar nearly like A; up to "ZZ".
  [[nodiscard]] static QString letterOf(const BarSimilarity& bar);

protected:
  void paintEvent(QPaintEvent*) override;
  void showEvent(QShowEvent* event) override;
  bool event(QEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;

private:
  void drawLoop(QPainter& p);
  void compare();
  [[nodiscard]] QRectF boxOf(std::size_t bar) const;
  [[nodiscard]] QString tipOf(std::size_t bar) const;

  RibbonsView& m_ribbons;
  LoopDrag m_loop;
  QTimer m_soon; ///< bars are compared a little after an edit, so that the edit is seen at once
  PatternPtr m_compared;
  std::vector<BarSimilarity> m_bars;
};

} // namespace tuvvo
