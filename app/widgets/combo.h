// A drop-down with a chevron in the theme's own ink.
#pragma once

#include <QComboBox>

namespace tuvvo {

class Combo : public QComboBox {
  Q_OBJECT
public:
  explicit Combo(const QString& name, const QString& tip = {}, QWidget* parent = nullptr);
  /// Anything can be typed as well; what is longer than the room shows its beginning.
  void setTyped();

protected:
  void paintEvent(QPaintEvent* event) override;
};

/// "1 bar", "4 bars": counts without a translation file.
[[nodiscard]] QString counted(qint64 count, const QString& one, const QString& many);

} // namespace tuvvo
