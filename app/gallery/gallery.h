// Every control of ours in every state, a page each: for us, and for pictures.
#pragma once

#include <QWidget>

class QStackedWidget;

namespace tuvvo {

class Tabs;

class Gallery : public QWidget {
  Q_OBJECT
public:
  Gallery();
  /// @returns whether there is such a page
  bool showPage(const QString& name);

private:
  void addPage(const QString& name, QWidget* page);
  Tabs* m_tabs;
  QStackedWidget* m_pages;
};

} // namespace tuvvo
