// Advice on the beat that is open, looked for in the background.
#pragma once

#include "notes/notes.h"
#include "session/document.h"
#include "session/job_service.h"

namespace tuvvo {

class NotesService : public Service {
  Q_OBJECT
public:
  NotesService(Document& document, JobService& jobs);

  [[nodiscard]] const std::vector<Note>& notes() const { return m_notes; }
  /// Does what a note offers, or opens the record that it is about.
  void doNote(const Note& note);
  /// It is not shown again in this beat.
  void dismissNote(const Note& note);
  /// How loud sounds are, measured once a sound; any thread.
  [[nodiscard]] LoudnessCache& loudness() { return *m_loudness; }

signals:
  void changed();
  /// The rights and origin of a source are to be seen and written.
  void recordWanted(Id source);

private:
  void refresh();

  Document& m_document;
  JobService& m_jobs;
  std::shared_ptr<LoudnessCache> m_loudness = std::make_shared<LoudnessCache>();
  std::vector<Note> m_notes;
  bool m_running = false, m_stale = false;
};

} // namespace tuvvo
