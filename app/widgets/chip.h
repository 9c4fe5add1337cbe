// A pill-shaped button, plain or checkable.
#pragma once

#include <QAbstractButton>
#include <QColor>

namespace tuvvo {

class Chip : public QAbstractButton {
  Q_OBJECT
public:
  /// @param tip  shown with the shortcut, if there is one; also the accessible description
  explicit Chip(const QString& text, const QString& tip = {}, QWidget* parent = nullptr);
  /// The rim's colour; checked chips are filled with brass.
  void setTone(QColor tone) {
    m_tone = tone;
    update();
  }
  [[nodiscard]] QSize sizeHint() const override;

protected:
  void paintEvent(QPaintEvent*) override;

private:
  QColor m_tone;
};

} // namespace tuvvo
