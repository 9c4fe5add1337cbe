// The level of what comes in, and what to do about it.
#pragma once

#include "panel/panel.h"
#include "session/catch_service.h"
#include <QWidget>

namespace tuvvo {

/// Left and right as two lines over a scale in dB: the bar is the peak, the dark part of it the
/// RMS, the tick what was held, the shaded stretch the target. A click forgets what was held and
/// the clips.
class InputStrip : public Panel {
  Q_OBJECT
public:
  InputStrip(Panel& host, CatchService& catching, QWidget* parent);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override;
  /// What it says under the lines.
  [[nodiscard]] QString advice() const;

protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  [[nodiscard]] double xOf(double db) const;

  CatchService& m_catching;
};

} // namespace tuvvo
