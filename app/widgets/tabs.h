// Views of one place: plain words on a line, the chosen one underlined.
#pragma once

#include "widgets/press.h"

#include <QList>

namespace tuvvo {

class Tabs : public QWidget {
  Q_OBJECT
public:
  explicit Tabs(const QString& name, QWidget* parent = nullptr);
  /// @returns its place
  int add(const QString& text, const QString& tip);
  [[nodiscard]] int chosen() const { return m_chosen; }
  /// Does not signal.
  void choose(int place);
  [[nodiscard]] Press* tab(int place) const { return m_tabs[place]; }
  [[nodiscard]] int count() const { return int(m_tabs.size()); }

signals:
  /// Somebody pressed one, also the one that is chosen already.
  void wanted(int place);

protected:
  void keyPressEvent(QKeyEvent* event) override;

private:
  QList<Press*> m_tabs;
  int m_chosen = 0;
};

} // namespace tuvvo
