// The level of what comes in, and what to do about it.
#pragma once

#include <QWidget>

namespace tuvvo {

class Session;

/// Left and right as two lines over a scale in dB: the bar is the peak, the dark part of it the
/// RMS, the tick what was held, the shaded stretch the target. A click forgets what was held and
/// the clips.
class InputStrip : public QWidget {
  Q_OBJECT
public:
  InputStrip(Session& session, QWidget* parent);
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

  Session& m_session;
};

} // namespace tuvvo
