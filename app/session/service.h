// What all objects behind the window have in common: they say things to the person.
#pragma once

#include <QObject>
#include <QString>

namespace tuvvo {

/// One reason for being each; the shell puts them together (session/services.h). Interface thread.
class Service : public QObject {
  Q_OBJECT
signals:
  /// @param trouble  shown in coral until the next message
  void message(const QString& text, bool trouble);
};

} // namespace tuvvo
