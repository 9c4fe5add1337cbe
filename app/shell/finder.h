// Every command and every control by name: type a few letters, Enter does it or goes there.
#pragma once

#include "shell/found_controls.h"

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
  /// @param controls  what can be gone to besides, likeliest first; found once something is typed
  void open(std::vector<FoundControl> controls);
  /// Letters in order anywhere in the text, better when they begin words; −1 when they are not
  /// there.
  [[nodiscard]] static int match(const QString& wanted, const QString& text);

signals:
  void controlWanted(const FoundControl& control);

protected:
  bool eventFilter(QObject* watched, QEvent* event) override;
  void paintEvent(QPaintEvent*) override;

private:
  void refill();
  void run();

  QList<QAction*> m_actions;
  std::vector<FoundControl> m_controls;
  QLineEdit* m_edit;
  QListWidget* m_list;
};

} // namespace tuvvo
