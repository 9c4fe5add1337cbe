// As tall as its content where there is room, and scrolled where there is not.
#pragma once

#include <QScrollArea>

namespace tuvvo {

class TallScroll : public QScrollArea {
  Q_OBJECT
public:
  /// @param least  pixels that it keeps in any case
  TallScroll(QWidget* content, int least, QWidget* parent);
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override;

protected:
  bool eventFilter(QObject* object, QEvent* event) override;

private:
  int m_least;
};

} // namespace tuvvo
