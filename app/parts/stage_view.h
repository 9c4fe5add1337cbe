// What every stage is to the window.
#pragma once

#include "notes/notes.h"
#include "panel/panel.h"

#include <QAction>
#include <QPainter>
#include <QWidget>

namespace tuvvo {

/// A stage's page. Its actions() become menu entries and finder commands.
class StageView : public Panel {
  Q_OBJECT
public:
  StageView(Panel& host, QWidget* parent) : Panel(host, parent) { restWhileHidden(); }

  /// A part of the stage by name, for pictures. @returns whether there is such a part
  virtual bool showPanel(const QString&) { return false; }

  /// Where its cursor stands in what it plays, for acts that begin "here".
  [[nodiscard]] virtual double cursorBeats() const { return 0; }

signals:
  /// The work goes on there.
  void goTo(Stage stage);

protected:
  /// An action with a shortcut that works while this stage is shown.
  QAction* addCommand(const QString& text, const QKeySequence& keys, std::function<void()> run) {
    auto* action = new QAction(text, this);
    action->setShortcut(keys);
    action->setShortcutContext(Qt::WidgetWithChildrenShortcut);
    const QString shown = keys.toString(QKeySequence::NativeText);
    action->setToolTip(shown.isEmpty() ? text : QStringLiteral("%1 (%2)").arg(text, shown));
    connect(action, &QAction::triggered, this, std::move(run));
    addAction(action);
    return action;
  }
};

} // namespace tuvvo
