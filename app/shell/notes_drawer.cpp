#include "shell/notes_drawer.h"
#include "session/document.h"
#include "session/music_text.h"

#include "shell/note_card.h"
#include "shell/notes_strip.h"
#include "shell/rail.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/label.h"
#include "widgets/tabs.h"

#include <QHBoxLayout>
#include <QSettings>
#include <QVBoxLayout>
#include <algorithm>

namespace tuvvo {

using theme::px;

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
  QStringList lines{NotesDrawer::tr("Key: %1").arg(nameText(project, key))};
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

NotesDrawer::NotesDrawer(Panel& host, NotesService& notes, NoteTrial& trial, Document& document,
                         QWidget* parent)
    : Panel(host, parent), m_notes(notes), m_trial(trial), m_document(document) {
  setAccessibleName(tr("Notes"));
  m_open = QSettings().value(QStringLiteral("notes open"), false).toBool();
  const std::array<QString, 3> names{tr("Notes"), tr("Lineage"), tr("Steps")};
  const std::array<QString, 3> tips{tr("What was measured (Ctrl+D folds the drawer)"),
                                    tr("Where the selected sound comes from"),
                                    tr("Everything that was done; click to go back there")};
  m_strip = new QWidget(this);
  auto* edge = new QVBoxLayout(m_strip);
  edge->setContentsMargins(1, px(8), 0, px(8));
  for (std::size_t i = 0; i < names.size(); ++i) {
    m_folded[i] = new StripTab(names[i], tips[i], m_strip);
    edge->addWidget(m_folded[i]);
    connect(m_folded[i], &QAbstractButton::clicked, this, [this, i] {
      setPage(Page(i));
      setOpen(true);
    });
  }
  edge->addStretch();
  m_whole = new QWidget(this);
  auto* column = new QVBoxLayout(m_whole);
  column->setContentsMargins(px(12), px(12), px(8), px(8));
  column->setSpacing(px(8));
  m_tabs = new Tabs(tr("Beside the stage"), this);
  for (std::size_t i = 0; i < names.size(); ++i) m_tabs->add(names[i], tips[i]);
  connect(m_tabs, &Tabs::wanted, this, [this](int page) {
    if (Page(page) == m_page) return setOpen(false); // a second press folds it
    setPage(Page(page));
  });
  column->addWidget(m_tabs);
  m_area = new QScrollArea(this);
  m_area->setWidgetResizable(true);
  m_area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  m_area->setFocusPolicy(Qt::NoFocus);
  m_area->viewport()->setAutoFillBackground(false);
  column->addWidget(m_area, 1);
  auto* sides = new QHBoxLayout(this);
  sides->setContentsMargins(0, 0, 0, 0);
  sides->addWidget(m_strip);
  sides->addWidget(m_whole);
  connect(&notes, &NotesService::changed, this, [this] { refresh(Page::Notes); });
  connect(this, &Panel::selectionChanged, this, [this] { refresh(Page::Lineage); });
  connect(this, &Panel::changed, this, [this] {
    refresh(Page::Lineage);
    refresh(Page::History);
  });
  setPage(Page::Notes);
}

void NotesDrawer::setStage(Stage stage) {
  if (stage != m_stage) m_allShown = false;
  m_stage = stage;
  refresh(Page::Notes);
}

void NotesDrawer::setPage(Page page) {
  m_page = page;
  m_tabs->choose(int(page));
  m_lines.clear();
  refresh(page);
  refreshFold();
}

void NotesDrawer::setOpen(bool open) {
  m_open = open;
  QSettings().setValue(QStringLiteral("notes open"), open);
  refreshFold();
}

void NotesDrawer::setNarrow(bool narrow) {
  m_narrow = narrow;
  refreshFold();
}

void NotesDrawer::refreshFold() {
  const auto here = notesHere();
  const bool open = m_open && !m_narrow && (m_page != Page::Notes || !here.empty());
  m_strip->setVisible(!open);
  m_whole->setVisible(open);
  setFixedWidth(px(open ? 252 : 37));
  m_folded[0]->setNumber(int(here.size()),
                         std::any_of(here.begin(), here.end(), [](const Note* note) {
                           return note->tone == Note::Tone::Trouble;
                         }));
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
  if (page == Page::Notes) refreshFold(); // its number stands on the strip
  if (page != m_page) return;
  if (const QStringList now = lines(); now != m_lines || m_lines.isEmpty()) {
    m_lines = now;
    rebuild();
  }
  if (page != Page::Notes) return;
  const auto here = notesHere();
  for (std::size_t i = 0; i < m_cards.size(); ++i) m_cards[i]->show(*here[i]);
}

void NotesDrawer::addText(const QString& text, bool quiet) {
  auto* label = new Label(quiet ? theme::Type::Small : theme::Type::Body,
                          quiet ? theme::Ink::Quiet : theme::Ink::Text);
  label->setWraps(true);
  label->setText(text);
  m_column->addWidget(label);
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
  const auto here = notesHere();
  for (std::size_t i = 0; i < shownOf(here.size()); ++i)
    lines << QString::fromStdString(here[i]->id);
  if (here.size() > std::size_t(lines.size())) lines << QString::number(here.size());
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

std::size_t NotesDrawer::shownOf(std::size_t notes) const {
  return m_allShown ? notes : std::min(notes, kMostShown);
}

void NotesDrawer::addNotes() {
  const std::size_t here = notesHere().size(), shown = shownOf(here);
  for (std::size_t i = 0; i < shown; ++i) {
    m_cards.push_back(new NoteCard(m_notes, m_trial, this));
    m_column->addWidget(m_cards.back());
  }
  qsizetype line = qsizetype(shown);
  if (shown < here) {
    auto* more = new Button(tr("%1 more").arg(here - shown), tr("Show every note of this stage"));
    connect(more, &QAbstractButton::clicked, this, [this] {
      m_allShown = true;
      refresh(Page::Notes);
    });
    m_column->addWidget(more);
    ++line;
  }
  for (; line < m_lines.size(); ++line) addText(m_lines[line], true);
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
    auto* step = new Button(QString::fromStdString(names[i]), tr("Go to this state"));
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
