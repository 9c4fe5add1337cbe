// How early or late everything was played, and what the shape makes of it; markers are pulled here.
#pragma once

#include "cut/wave_view.h"
#include "panel/panel.h"
#include "shape/shaped.h"

namespace tuvvo {

class DriftLine : public Panel {
  Q_OBJECT
public:
  DriftLine(Panel& host, WaveView& wave, QWidget* parent);

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;

private:
  [[nodiscard]] const Source* source() const;
  void refresh();
  [[nodiscard]] double xOf(const Anchor& anchor) const;
  [[nodiscard]] double yOf(double lateMs) const;
  [[nodiscard]] double lateAt(double y) const;
  /// How late the place comes out, in ms.
  [[nodiscard]] double lateNow(const Anchor& anchor) const;
  [[nodiscard]] const WarpMarker* markerOf(const Anchor& anchor) const;
  [[nodiscard]] int anchorNear(double x) const;
  void setMarker(const Anchor& anchor, double lateMs, const QString& merge = {});
  void removeMarker(const Anchor& anchor);

  WaveView& m_wave;
  std::vector<Anchor> m_anchors;
  std::optional<EvenBeats> m_even;
  double m_mostMs = 10;
  int m_chosen = -1;
  bool m_dragging = false;
};

} // namespace tuvvo
