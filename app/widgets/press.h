// What everything shares that is pressed.
#pragma once

#include "theme/theme.h"
#include "widgets/sign.h"

#include <QAbstractButton>

namespace tuvvo {

/// A button that takes the focus by Tab alone, since a click must not take the keys away from the
/// deck. What it looks like says what it means: see Button, Tick, Tabs and Segments.
class Press : public QAbstractButton {
  Q_OBJECT
public:
  /// @param tip  shown with the shortcut, if there is one; also the accessible description
  Press(const QString& text, const QString& tip, QWidget* parent);
  void setSign(Sign sign) {
    m_sign = sign;
    updateGeometry();
    update();
  }
  [[nodiscard]] Sign sign() const { return m_sign; }
  /// What it is called where its text alone does not say it.
  void setSaid(const QString& text, const QString& tip);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override { return sizeHint(); }

protected:
  /// Arrows are what it lies in's: tabs and segments, else the stage.
  void keyPressEvent(QKeyEvent* event) override;
  /// Room beside sign and text.
  [[nodiscard]] virtual int padding() const { return theme::px(24); }
  [[nodiscard]] virtual theme::Type type() const { return theme::Type::Body; }
  /// Sign and text in the middle of a box.
  void drawFace(QPainter& painter, const QRectF& box, QColor ink) const;
  /// A ring where it has the focus.
  void drawFocus(QPainter& painter, const QRectF& box, double radius) const;
  [[nodiscard]] bool under() const { return underMouse() && isEnabled(); }

private:
  Sign m_sign = Sign::None;
};

} // namespace tuvvo
