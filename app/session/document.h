// The beat that is open: its steps, what is selected in it, and every edit.
#pragma once

#include "model/history.h"
#include "panel/selection.h"
#include "session/service.h"

namespace tuvvo {

class Document : public Service {
  Q_OBJECT
public:
  Document() : m_history(Project{}) {}

  [[nodiscard]] const Project& project() const { return *m_history.current(); }
  [[nodiscard]] ProjectPtr projectPtr() const { return m_history.current(); }
  [[nodiscard]] const History& history() const { return m_history; }
  [[nodiscard]] const Selection& selection() const { return m_selection; }

  /// Nothing where it changes nothing.
  /// @param merge  edits under the same merge name, one after the other, are one step
  void edit(const QString& name, Project next, const QString& merge = {});
  /// The same, and a step even where nothing in the project changes: what it changed lies outside.
  void step(const QString& name, Project next, const QString& merge = {});
  /// The next edit is a step of its own, whatever its merge name.
  void settle() { m_history.settle(); }
  void undo();
  void redo();
  void goToStep(std::size_t place);
  /// Whoever works on it, a take or an audition, ends and makes its last edits; before the beat is
  /// kept and another one takes its place.
  void endWork() { emit workEnds(); }
  /// Another beat takes this one's place; its history begins anew.
  void replace(Project project);

  void select(const Selection& selection);

signals:
  /// Steps after this place of the history are about to be dropped.
  void aboutToStep(std::size_t place);
  /// From one place of the history to another.
  void aboutToGo(std::size_t from, std::size_t to);
  void workEnds();
  /// Before changed().
  void replaced();
  void changed();
  void selectionChanged();

private:
  void tellChanged();

  History m_history;
  Selection m_selection;
};

} // namespace tuvvo
