// The right-hand drawer: notes of this stage, the lineage of what is selected, the steps of undo.
#pragma once

#include "session/session.h"
#include "widgets/chip.h"

#include <QScrollArea>
#include <QWidget>

class QVBoxLayout;
class QLabel;

namespace tuvvo {

class NotesDrawer : public QWidget {
  Q_OBJECT
public:
  enum class Panel { Notes, Lineage, History };
  NotesDrawer(Session& session, QWidget* parent);
  void setStage(Stage stage);
  void setPanel(Panel panel);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void rebuild();
  void addNotes();
  void addLineage();
  void addHistory();
  QLabel* addText(const QString& text, bool quiet);

  Session& m_session;
  Stage m_stage = Stage::Crate;
  Panel m_panel = Panel::Notes;
  std::array<Chip*, 3> m_tabs{};
  QScrollArea* m_area;
  QVBoxLayout* m_column = nullptr;
};

/// The lineage of a key as lines: key, cut, source, origin, permission.
[[nodiscard]] QStringList lineageOf(const Project& project, const Key& key);

} // namespace tuvvo
