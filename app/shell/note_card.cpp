#include "shell/note_card.h"

#include "session/music_text.h"
#include "session/note_trial.h"
#include "session/notes_service.h"
#include "widgets/button.h"
#include "widgets/label.h"
#include "widgets/segments.h"
#include "words/note_words.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

NoteCard::NoteCard(NotesService& notes, NoteTrial& trial, QWidget* parent)
    : QWidget(parent), m_trial(trial) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(14), px(10), px(10), px(10));
  column->setSpacing(px(6));
  m_figure = new Label(theme::Type::Title, theme::Ink::Text, this);
  m_reason = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_figure->setWraps(true);
  m_reason->setWraps(true);
  column->addWidget(m_figure);
  column->addWidget(m_reason);
  m_hear = new Segments(tr("Hear the pattern"), Segments::Picks::One, this);
  m_hear->add(tr("Before"), tr("The pattern as it is"));
  m_hear->add(tr("After"), tr("The pattern as it would be, equally loud; nothing changes yet"));
  column->addWidget(m_hear, 0, Qt::AlignLeft);
  auto* row = new QHBoxLayout;
  row->setSpacing(px(6));
  m_act = new Button(QString(), tr("Does it; can be undone"), this);
  row->addWidget(m_act);
  row->addStretch();
  auto* dismiss = new Button(tr("Dismiss"), tr("Do not say this again; can be undone"), this);
  row->addWidget(dismiss);
  column->addLayout(row);
  connect(m_hear, &Segments::wanted, this, [this](int which) {
    if (which == 1)
      m_trial.hearAfter(m_note);
    else
      m_trial.hearBefore();
  });
  connect(&trial, &NoteTrial::changed, this, &NoteCard::refreshTrial);
  connect(m_act, &QAbstractButton::clicked, &notes, [this, &notes] { notes.doNote(m_note); });
  connect(dismiss, &QAbstractButton::clicked, &notes,
          [this, &notes] { notes.dismissNote(m_note); });
}

void NoteCard::show(const Note& note) {
  m_note = note;
  m_tone = note.tone == Note::Tone::Trouble ? theme::Ink::Coral
           : note.tone == Note::Tone::Taste ? theme::Ink::Brass
                                            : theme::Ink::Mint;
  const NoteWords words = wordsOf(note.finding);
  m_figure->setText(musicText(words.figure));
  m_reason->setText(withFractions(musicText(words.reason)));
  m_act->setSaid(QString::fromStdString(words.action),
                 note.fix ? tr("Does it; can be undone")
                          : tr("Its rights and origin in Crate: write down what you know"));
  m_hear->setVisible(bool(note.fix));
  setAccessibleName(m_figure->text() + QStringLiteral(". ") + m_reason->text());
  refreshTrial();
}

void NoteCard::refreshTrial() {
  m_hear->choose(m_trial.heard() == m_note.id && !m_note.id.empty() ? 1 : 0);
}

void NoteCard::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  p.setPen(Qt::NoPen);
  p.setBrush(theme::colours().raised);
  p.drawRoundedRect(rect(), 6, 6);
  p.fillRect(QRect(0, 4, 3, height() - 8), theme::ink(m_tone));
}

} // namespace tuvvo
