// The way to a control that is out of sight: under another tab, or under More.
#pragma once

#include <QList>
#include <QWidget>

namespace tuvvo {

class Tabs;

/// What a control belongs to: what it lies in; for what lies under More, the button that opens it.
[[nodiscard]] QWidget* belongsTo(const QWidget& control);

/// The ways within one window, as it is now.
class WayTo {
public:
  explicit WayTo(const QWidget& window);

  /// Whether tabs and More are all that keeps a control out of sight.
  /// @param root  what is in sight itself; the control lies in it
  [[nodiscard]] bool canReveal(const QWidget& control, const QWidget& root) const;

  /// Presses the tabs and opens the More that it lies under, and scrolls to it.
  void reveal(QWidget& control, const QWidget& root) const;

private:
  [[nodiscard]] std::pair<Tabs*, int> tabOf(const QWidget& widget) const;

  QList<Tabs*> m_tabs;
};

} // namespace tuvvo
