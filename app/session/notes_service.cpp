#include "session/notes_service.h"

#include "words/note_words.h"

namespace tuvvo {

NotesService::NotesService(Document& document, JobService& jobs)
    : m_document(document), m_jobs(jobs) {
  connect(&document, &Document::changed, this, &NotesService::refresh);
}

/// One at a time, however fast edits come; what came meanwhile is seen to afterwards.
void NotesService::refresh() {
  m_stale = m_running;
  if (m_running) return;
  m_running = true;
  m_jobs.run(
      [this, value = m_document.projectPtr(), loudness = m_loudness](JobContext&) {
        auto notes = notesOf(*value, *loudness);
        m_jobs.later([this, notes = std::move(notes)] {
          m_running = false;
          m_notes = notes;
          emit changed();
          if (m_stale) refresh();
        });
      },
      [this](const Error& error) {
        m_jobs.trouble()(error);
        m_jobs.later([this] { m_running = false; }); // the next edit asks again
      });
}

void NotesService::doNote(const Note& note) {
  if (note.opens != 0) emit recordWanted(note.opens);
  if (note.fix)
    m_document.edit(QString::fromStdString(wordsOf(note.finding).action),
                    note.fix(m_document.project()));
}

void NotesService::dismissNote(const Note& note) {
  Project next = m_document.project();
  next.dismissedNotes.insert(note.id);
  m_document.edit(tr("Dismiss a note"), std::move(next));
}

} // namespace tuvvo
