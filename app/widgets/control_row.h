// Controls in one row that never wraps: what does not fit lies under More.
#pragma once

#include <QList>
#include <QWidget>

namespace tuvvo {

class Button;
class MorePanel;

/// Stands in the order of adding. Where there is less room than all of them want, what can be
/// narrower becomes narrower; then those that may go do so, the last first. Widgets are hidden and
/// shown as in any layout.
class ControlRow : public QWidget {
  Q_OBJECT
public:
  enum class Stays {
    Always,
    IfThereIsRoom,
    UnderMore ///< what is seldom wanted
  };
  explicit ControlRow(QWidget* parent = nullptr);
  ~ControlRow() override;
  /// One that fills a panel.
  static ControlRow* in(QWidget* panel);
  void add(QWidget* widget, Stays stays = Stays::IfThereIsRoom);
  /// What follows stands at the right end.
  void addStretch();
  /// More room between two groups.
  void addGap();
  [[nodiscard]] Button* more() const { return m_more; }
  [[nodiscard]] QSize sizeHint() const override;
  [[nodiscard]] QSize minimumSizeHint() const override;

protected:
  void resizeEvent(QResizeEvent*) override { lay(); }
  void showEvent(QShowEvent*) override { lay(); }
  bool event(QEvent* event) override;
  bool eventFilter(QObject* watched, QEvent* event) override;

private:
  struct Item {
    QWidget* widget = nullptr; ///< none: a gap or a stretch
    Stays stays = Stays::Always;
    bool stretch = false;
    bool under = false; ///< it lies under More now
  };
  void lay();
  [[nodiscard]] bool wanted(const Item& item) const;
  [[nodiscard]] int widthOf(const Item& item, bool least) const;
  /// Of those that are not under More, with the gaps between them.
  [[nodiscard]] int need(bool least) const;
  [[nodiscard]] bool anyUnder() const;
  void put(Item& item);

  QList<Item> m_items;
  Button* m_more;
  MorePanel* m_panel;
  bool m_laying = false;
};

} // namespace tuvvo
