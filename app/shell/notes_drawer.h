// The right-hand drawer: notes of this stage, the lineage of what is selected, the steps of undo.
// Folded it is a strip with their number.
#pragma once

#include "panel/panel.h"
#include "session/note_trial.h"
#include "session/notes_service.h"

#include <QScrollArea>
#include <QWidget>

class QVBoxLayout;

namespace tuvvo {

class Label;
class NoteCard;
class StripTab;
class Tabs;

class NotesDrawer : public Panel {
  Q_OBJECT
public:
  enum class Page { Notes, Lineage, History };
  static constexpr std::size_t kMostShown = 5; ///< the rest is behind a count
  NotesDrawer(Panel& host, NotesService& notes, NoteTrial& trial, Document& document,
              QWidget* parent);
  void setStage(Stage stage);
  void setPage(Page page);
  /// Open where the person wants it and there is room; notes that have nothing to say stay folded.
  void setOpen(bool open);
  [[nodiscard]] bool isOpen() const { return m_open; }
  /// There is no room for more than the strip.
  void setNarrow(bool narrow);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  [[nodiscard]] std::vector<const Note*> notesHere() const;
  [[nodiscard]] QStringList noteLines() const;
  [[nodiscard]] std::size_t shownOf(std::size_t notes) const;
  [[nodiscard]] QStringList lines() const;
  void refresh(Page page);
  void refreshFold();
  void rebuild();
  void addNotes();
  void addLineage();
  void addHistory();
  void addText(const QString& text, bool quiet);

  NotesService& m_notes;
  NoteTrial& m_trial;
  Document& m_document;
  Stage m_stage = Stage::Crate;
  Page m_page = Page::Notes;
  bool m_open = false, m_narrow = false, m_allShown = false;
  QWidget *m_strip, *m_whole; ///< one of them is shown
  std::array<StripTab*, 3> m_folded{};
  Tabs* m_tabs;
  QScrollArea* m_area;
  QVBoxLayout* m_column = nullptr;
  QStringList m_lines;            ///< what the page is built of
  std::vector<NoteCard*> m_cards; ///< of the page; owned by it
};

/// The lineage of a key as lines: key, cut, source, origin, permission.
[[nodiscard]] QStringList lineageOf(const Project& project, const Key& key);

} // namespace tuvvo
