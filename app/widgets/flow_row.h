// Small widgets in a row that goes on in the next line where there is no more room.
#pragma once

#include <QLayout>
#include <QList>

namespace tuvvo {

class FlowRow : public QLayout {
  Q_OBJECT
public:
  explicit FlowRow(int gap, QWidget* parent = nullptr);
  ~FlowRow() override;
  void addItem(QLayoutItem* item) override { m_items << item; }
  [[nodiscard]] int count() const override { return int(m_items.size()); }
  [[nodiscard]] QLayoutItem* itemAt(int index) const override { return m_items.value(index); }
  QLayoutItem* takeAt(int index) override;
  [[nodiscard]] Qt::Orientations expandingDirections() const override { return {}; }
  [[nodiscard]] bool hasHeightForWidth() const override { return true; }
  [[nodiscard]] int heightForWidth(int width) const override;
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSize() const override;
  void setGeometry(const QRect& rect) override;

private:
  int lay(const QRect& whole, bool really) const;
  QList<QLayoutItem*> m_items;
  int m_gap, m_width = 0;
};

} // namespace tuvvo
