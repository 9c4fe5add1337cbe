#include "session/document.h"

namespace tuvvo {

void Document::edit(const QString& name, Project next, const QString& merge) {
  if (next == project()) return;
  step(name, std::move(next), merge);
}

void Document::step(const QString& name, Project next, const QString& merge) {
  emit aboutToStep(m_history.place());
  m_history.apply(name.toStdString(), std::move(next), merge.toStdString());
  tellChanged();
}

void Document::undo() {
  if (!m_history.canUndo()) return;
  const QString name = QString::fromStdString(m_history.names()[m_history.place()]);
  goToStep(m_history.place() - 1);
  emit message(tr("Undone: %1").arg(name), false);
}

void Document::redo() {
  if (!m_history.canRedo()) return;
  goToStep(m_history.place() + 1);
  emit message(
      tr("Done again: %1").arg(QString::fromStdString(m_history.names()[m_history.place()])),
      false);
}

void Document::goToStep(std::size_t place) {
  emit aboutToGo(m_history.place(), place);
  m_history.goTo(place);
  tellChanged();
}

void Document::replace(Project project) {
  m_history = History(std::move(project));
  m_selection = {};
  emit replaced();
  tellChanged();
}

void Document::select(const Selection& selection) {
  if (selection == m_selection) return;
  m_selection = selection;
  emit selectionChanged();
}

void Document::tellChanged() {
  const Selection kept = keptAlive(m_selection, project());
  const bool moved = kept != m_selection;
  m_selection = kept;
  emit changed();
  if (moved) emit selectionChanged();
}

} // namespace tuvvo
