// Views of one place: plain words on a line, the chosen one underlined.
#pragma once

#include "widgets/press.h"

#include <QHash>
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
  /// That tab shows this: what lies in it is found by name through it (see reveal.h).
  void setShows(int place, QWidget* page) { m_pages.insert(page, place); }
  /// The tab that shows it, −1 where none does.
  [[nodiscard]] int placeOf(const QWidget* page) const { return m_pages.value(page, -1); }
  [[nodiscard]] int count() const { return int(m_tabs.size()); }

signals:
  /// Somebody pressed one, also the one that is chosen already.
  void wanted(int place);

protected:
  void keyPressEvent(QKeyEvent* event) override;

private:
  QList<Press*> m_tabs;
  QHash<const QWidget*, int> m_pages;
  int m_chosen = 0;
};

} // namespace tuvvo
