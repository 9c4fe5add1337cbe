// Every command by name: type a few letters, Enter does it.
#pragma once

#include <QAction>
#include <QList>
#include <QWidget>

class QLineEdit;
class QListWidget;

namespace tuvvo {

class Finder : public QWidget {
  Q_OBJECT
public:
  Finder(const QList<QAction*>& actions, QWidget* parent);
  void open();
  /// Letters in order anywhere in the text, better when they begin words; −1 when they are not
  /// there.
  [[nodiscard]] static int match(const QString& wanted, const QString& text);

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void paintEvent(QPaintEvent*) override;

private:
  void refill();
  void run();

  QList<QAction*> m_actions;
  QLineEdit* m_edit;
  QListWidget* m_list;
};

} // namespace tuvvo
