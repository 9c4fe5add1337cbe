// One note: an edge in the colour of its tone, the figure, the reason, and what can be done.
#pragma once

#include "notes/notes.h"
#include "theme/theme.h"

#include <QWidget>

namespace tuvvo {

class Button;
class Label;
class NotesService;
class NoteTrial;
class Segments;

class NoteCard : public QWidget {
  Q_OBJECT
public:
  NoteCard(NotesService& notes, NoteTrial& trial, QWidget* parent);
  /// Notes come after every step of a drag; labels lay themselves out only for a new text.
  void show(const Note& note);

protected:
  void paintEvent(QPaintEvent*) override;

private:
  void refreshTrial();

  NoteTrial& m_trial;
  Note m_note;
  theme::Ink m_tone = theme::Ink::Brass;
  Label *m_figure, *m_reason;
  Segments* m_hear;
  Button* m_act;
};

} // namespace tuvvo
