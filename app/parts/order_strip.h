// Which piece of a chop stands where, moved about by hand.
#pragma once

#include <QWidget>
#include <vector>

namespace tuvvo {

/// Pieces in a row, as they are heard, numbered and shaded by where they were. Dragged to another
/// place they stand there; dragged out above or below they are gone. By keys: arrows choose,
/// Ctrl+arrows move, Insert doubles, Delete takes out.
class OrderStrip : public QWidget {
  Q_OBJECT
public:
  explicit OrderStrip(QWidget* parent);
  void setOrder(std::vector<int> order);
  [[nodiscard]] const std::vector<int>& order() const { return m_order; }
  [[nodiscard]] QSize sizeHint() const override;
  /// The middle of a place, in the widget.
  [[nodiscard]] QPoint middleOf(std::size_t place) const;

signals:
  void reordered(const std::vector<int>& order);

protected:
  bool event(QEvent* event) override;
  void paintEvent(QPaintEvent* event) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;

private:
  [[nodiscard]] QRectF cellOf(std::size_t place) const;
  /// The gap between places that is nearest: 0 to the number of pieces.
  [[nodiscard]] std::size_t gapAt(double x) const;
  void move(std::size_t from, std::size_t gap);
  void change(std::vector<int> order, std::size_t chosen);

  std::vector<int> m_order;
  std::size_t m_chosen = 0;
  int m_dragged = -1; ///< place of the piece that is being moved
  QPointF m_at, m_from;
};

} // namespace tuvvo
