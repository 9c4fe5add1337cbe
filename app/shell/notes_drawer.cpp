#include "shell/notes_drawer.h"
#include "session/document.h"

#include "shell/rail.h"
#include "theme/theme.h"
#include "words/note_words.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QVBoxLayout>
#include <algorithm>

namespace tuvvo {

using theme::px;

/// One note: a tone-coloured edge, the figure, the reason, what to do.
class NoteCard : public QWidget {
public:
  NoteCard(NotesService& notes, QWidget* parent) : QWidget(parent) {
    auto* column = new QVBoxLayout(this);
    column->setContentsMargins(px(14), px(10), px(10), px(10));
    column->setSpacing(px(5));
    m_figure = new QLabel(this);
    m_figure->setFont(theme::font(theme::Type::Title));
    m_figure->setWordWrap(true);
    column->addWidget(m_figure);
    m_reason = new QLabel(this);
    m_reason->setFont(theme::font(theme::Type::Small));
    m_reason->setWordWrap(true);
    theme::style(m_reason, QStringLiteral("color:%1").arg(theme::colours().quiet.name()));
    column->addWidget(m_reason);
    auto* row = new QHBoxLayout;
    row->setSpacing(px(6));
    m_act = new Chip(QString(), NotesDrawer::tr("Does it; can be undone"), this);
    row->addWidget(m_act);
    row->addStretch();
    auto* hush = new Chip(NotesDrawer::tr("Hush"),
                          NotesDrawer::tr("Do not say this again; can be undone"), this);
    row->addWidget(hush);
    column->addLayout(row);
    connect(m_act, &QAbstractButton::clicked, &notes, [this, &notes] { notes.doNote(m_note); });
    connect(hush, &QAbstractButton::clicked, &notes, [this, &notes] { notes.dismissNote(m_note); });
  }

  /// Notes come after every step of a drag; labels lay themselves out only for a new text.
  void show(const Note& note) {
    const auto& c = theme::colours();
    m_note = note;
    m_tone = note.tone == Note::Tone::Trouble ? c.coral
             : note.tone == Note::Tone::Taste ? c.brass
                                              : c.mint;
    const NoteWords words = wordsOf(note.finding);
    m_figure->setText(QString::fromStdString(words.figure));
    m_reason->setText(QString::fromStdString(words.reason));
    if (const QString act = QString::fromStdString(words.action); act != m_act->text()) {
      m_act->setText(act);
      m_act->setAccessibleName(act);
    }
    m_act->setTone(m_tone);
    setAccessibleName(m_figure->text() + QStringLiteral(". ") + m_reason->text());
  }

protected:
  void paintEvent(QPaintEvent*) override {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.setPen(Qt::NoPen);
    p.setBrush(theme::colours().raised);
    p.drawRoundedRect(rect(), 6, 6);
    p.fillRect(QRect(0, 4, 3, height() - 8), m_tone);
  }

private:
  Note m_note;
  QColor m_tone;
  QLabel *m_figure, *m_reason;
  Chip* m_act;
};

namespace {

QString permissionText(Permission permission) {
  switch (permission) {
  case Permission::Unrecorded:
    return NotesDrawer::tr("no permission recorded");
  case Permission::Own:
    return NotesDrawer::tr("own work");
  case Permission::Granted:
    return NotesDrawer::tr("permission granted");
  case Permission::Asked:
    return NotesDrawer::tr("permission asked");
  case Permission::OpenLicence:
    break;
  }
  return NotesDrawer::tr("open licence");
}

} // namespace

QStringList lineageOf(const Project& project, const Key& key) {
  QStringList lines{NotesDrawer::tr("Key: %1").arg(QString::fromStdString(nameOf(project, key)))};
  const Source* source = findSource(project, key.sound.source);
  if (!source) return lines;
  const double shift = key.tune.value + key.fine.value / 100;
  if (shift != 0) lines << NotesDrawer::tr("Repitched %1 st").arg(shift, 0, 'f', 2);
  if (source->sound && key.sound.cut != 0) {
    const Stretch s = stretchOf(*source, key);
    lines << NotesDrawer::tr("Cut %1 to %2 s")
                 .arg(toSeconds(s.start, source->sound->rate()).value, 0, 'f', 3)
                 .arg(toSeconds(s.end, source->sound->rate()).value, 0, 'f', 3);
  }
  for (const auto& treatment : key.treatments)
    if (treatment.on)
      lines << NotesDrawer::tr("Treated: %1").arg(QString::fromStdString(describe(treatment)));
  lines << NotesDrawer::tr("Source: %1").arg(QString::fromStdString(source->name));
  // Back through what it was made of, to the sound from outside.
  for (int depth = 0; source->recipe && depth < 16; ++depth) {
    const Recipe& made = *source->recipe;
    const Source* from = findSource(project, made.as.sound.source);
    if (!from || !from->sound) break;
    const Hertz rate = from->sound->rate();
    lines << NotesDrawer::tr("Made of: %1, %2 to %3 s")
                 .arg(QString::fromStdString(from->name))
                 .arg(toSeconds(made.start, rate).value, 0, 'f', 3)
                 .arg(toSeconds(made.end, rate).value, 0, 'f', 3);
    for (const auto& treatment : made.as.treatments)
      if (treatment.on)
        lines << NotesDrawer::tr("Treated: %1").arg(QString::fromStdString(describe(treatment)));
    source = from;
  }
  lines << NotesDrawer::tr("From: %1").arg(QString::fromStdString(source->origin));
  QString rights = permissionText(source->provenance.recording);
  if (!source->provenance.note.empty())
    rights +=
        QStringLiteral(" (") + QString::fromStdString(source->provenance.note) + QLatin1Char(')');
  lines << NotesDrawer::tr("Rights: %1").arg(rights);
  return lines;
}

NotesDrawer::NotesDrawer(Panel& host, NotesService& notes, Document& document, QWidget* parent)
    : Panel(host, parent), m_notes(notes), m_document(document) {
  setFixedWidth(px(238));
  setAccessibleName(tr("Notes"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(11), px(10), px(9), px(6));
  column->setSpacing(px(8));
  auto* tabs = new QHBoxLayout;
  tabs->setSpacing(px(4));
  const std::array<QString, 3> names{tr("Notes"), tr("Lineage"), tr("Steps")};
  const std::array<QString, 3> tips{tr("What was measured (Ctrl+D folds the drawer)"),
                                    tr("Where the selected sound comes from"),
                                    tr("Everything that was done; click to go back there")};
  for (std::size_t i = 0; i < 3; ++i) {
    m_tabs[i] = new Chip(names[i], tips[i], this);
    m_tabs[i]->setCheckable(true);
    m_tabs[i]->setAutoExclusive(true);
    tabs->addWidget(m_tabs[i]);
    connect(m_tabs[i], &QAbstractButton::clicked, this, [this, i] { setPage(Page(i)); });
  }
  tabs->addStretch();
  column->addLayout(tabs);
  m_area = new QScrollArea(this);
  m_area->setWidgetResizable(true);
  m_area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  m_area->setFocusPolicy(Qt::NoFocus);
  m_area->viewport()->setAutoFillBackground(false);
  column->addWidget(m_area, 1);
  connect(&notes, &NotesService::changed, this, [this] { refresh(Page::Notes); });
  connect(this, &Panel::selectionChanged, this, [this] { refresh(Page::Lineage); });
  connect(this, &Panel::changed, this, [this] {
    refresh(Page::Lineage);
    refresh(Page::History);
  });
  setPage(Page::Notes);
}

void NotesDrawer::setStage(Stage stage) {
  m_stage = stage;
  refresh(Page::Notes);
}

void NotesDrawer::setPage(Page page) {
  m_page = page;
  m_tabs[std::size_t(page)]->setChecked(true);
  m_lines.clear();
  refresh(page);
}

QStringList NotesDrawer::lines() const {
  switch (m_page) {
  case Page::Notes:
    return noteLines();
  case Page::Lineage:
    if (const Key* key = findKey(project(), selection().key)) return lineageOf(project(), *key);
    return {tr("Select a key, and where its sound comes from stands here.")};
  case Page::History:
    break;
  }
  QStringList steps{QString::number(m_document.history().place())};
  for (const auto& name : m_document.history().names()) steps << QString::fromStdString(name);
  return steps;
}

/// Builds the page again if it says something else than before; cards that stay say the new.
void NotesDrawer::refresh(Page page) {
  if (page != m_page) return;
  if (const QStringList now = lines(); now != m_lines || m_lines.isEmpty()) {
    m_lines = now;
    rebuild();
  }
  if (page != Page::Notes) return;
  const auto here = notesHere();
  for (std::size_t i = 0; i < m_cards.size(); ++i) m_cards[i]->show(*here[i]);
}

QLabel* NotesDrawer::addText(const QString& text, bool quiet) {
  auto* label = new QLabel(text);
  label->setWordWrap(true);
  label->setFont(theme::font(quiet ? theme::Type::Small : theme::Type::Body));
  label->setTextInteractionFlags(Qt::TextSelectableByMouse);
  label->setFocusPolicy(Qt::NoFocus);
  if (quiet) theme::style(label, QStringLiteral("color:%1").arg(theme::colours().quiet.name()));
  m_column->addWidget(label);
  return label;
}

void NotesDrawer::rebuild() {
  auto* content = new QWidget;
  content->setAutoFillBackground(false);
  m_column = new QVBoxLayout(content);
  m_column->setContentsMargins(0, 0, px(4), 0);
  m_column->setSpacing(px(8));
  m_cards.clear();
  switch (m_page) {
  case Page::Notes:
    addNotes();
    break;
  case Page::Lineage:
    addLineage();
    break;
  case Page::History:
    addHistory();
    break;
  }
  m_column->addStretch();
  m_area->setWidget(content);
}

std::vector<const Note*> NotesDrawer::notesHere() const {
  std::vector<const Note*> here;
  for (const Note& note : m_notes.notes())
    if (note.stage == m_stage) here.push_back(&note);
  return here;
}

/// A line for each card, and what stands under them.
QStringList NotesDrawer::noteLines() const {
  QStringList lines, elsewhere;
  for (const Note* note : notesHere()) lines << QString::fromStdString(note->id);
  if (lines.isEmpty()) lines << tr("Nothing to say about this stage.");
  for (int s = 0; s < 6; ++s) {
    const auto count =
        std::count_if(m_notes.notes().begin(), m_notes.notes().end(), [&](const Note& note) {
          return int(note.stage) == s && note.stage != m_stage;
        });
    if (count > 0) elsewhere << QStringLiteral("%1 %2").arg(stageName(Stage(s))).arg(count);
  }
  if (!elsewhere.isEmpty()) lines << tr("Elsewhere: %1").arg(elsewhere.join(QStringLiteral(", ")));
  return lines;
}

void NotesDrawer::addNotes() {
  const auto here = qsizetype(notesHere().size());
  for (qsizetype i = 0; i < here; ++i) {
    m_cards.push_back(new NoteCard(m_notes, this));
    m_column->addWidget(m_cards.back());
  }
  for (qsizetype i = here; i < m_lines.size(); ++i) addText(m_lines[i], true);
}

void NotesDrawer::addLineage() {
  const bool none = !findKey(project(), selection().key);
  for (qsizetype i = 0; i < m_lines.size(); ++i) addText(m_lines[i], none || i > 0);
}

void NotesDrawer::addHistory() {
  const auto names = m_document.history().names();
  const std::size_t place = m_document.history().place();
  // The newest first; a long evening shows its last two hundred steps.
  const std::size_t first = names.size() > 200 ? names.size() - 200 : 0;
  for (std::size_t i = names.size(); i-- > first;) {
    auto* step = new Chip(QString::fromStdString(names[i]), tr("Go to this state"));
    step->setCheckable(true);
    step->setChecked(i == place);
    connect(step, &QAbstractButton::clicked, &m_document, [this, i] { m_document.goToStep(i); });
    m_column->addWidget(step);
  }
}

void NotesDrawer::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.fillRect(rect(), c.panel);
  p.fillRect(QRect(0, 0, 1, height()), c.line);
}

} // namespace tuvvo
