// A word or a sentence in one line, in a size and an ink of the theme.
#pragma once

#include "theme/theme.h"

#include <QWidget>

namespace tuvvo {

/// Shortened at its end where there is no room; the tip has the whole then.
class Label : public QWidget {
  Q_OBJECT
public:
  explicit Label(theme::Type type = theme::Type::Body, theme::Ink ink = theme::Ink::Text,
                 QWidget* parent = nullptr);
  void setText(const QString& text);
  [[nodiscard]] const QString& text() const { return m_text; }
  void setInk(theme::Ink ink) {
    m_ink = ink;
    update();
  }
  /// How narrow it may become, in design pixels; the whole text unless it is said.
  void setLeast(int pixels) {
    m_least = pixels;
    updateGeometry();
  }
  /// A sentence that has more lines where it needs them.
  void setWraps(bool wraps);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override;
  [[nodiscard]] bool hasHeightForWidth() const override { return m_wraps; }
  [[nodiscard]] int heightForWidth(int width) const override;

protected:
  void paintEvent(QPaintEvent*) override;
  bool event(QEvent* event) override;

private:
  [[nodiscard]] double wanted() const;

  QString m_text;
  theme::Type m_type;
  theme::Ink m_ink;
  int m_least = -1;
  bool m_wraps = false;
};

} // namespace tuvvo
