// What is seldom wanted, in a panel that lies over the stage while it is open.
#pragma once

#include <QPointer>
#include <QWidget>

namespace tuvvo {

class FlowRow;

/// Nothing stops while it is open, and the deck still plays. Escape, a press beside it, or its
/// button closes it.
class MorePanel : public QWidget {
  Q_OBJECT
public:
  /// @param button  that opens it; it lies under that
  explicit MorePanel(QWidget* button);
  ~MorePanel() override;
  void add(QWidget* widget);
  void toggle();
  void open();
  [[nodiscard]] QWidget* button() const { return m_button; }

protected:
  void paintEvent(QPaintEvent*) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  void close();
  void place();

  QPointer<QWidget> m_button;
  FlowRow* m_row;
};

} // namespace tuvvo
