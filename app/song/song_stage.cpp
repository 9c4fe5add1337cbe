#include "song/song_stage.h"

#include "base/tempo_map.h"
#include "model/edits.h"
#include "song/first_song.h"
#include "song/song_view.h"
#include "song/timeline.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/stage_head.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLineEdit>
#include <QMouseEvent>
#include <QPainter>
#include <QVBoxLayout>
#include <cmath>

namespace tuvvo {

using theme::px;

SongStage::SongStage(Panel& host, Transport& transport, SongMeter& meter, QWidget* parent)
    : StageView(host, parent), m_transport(transport), m_meter(meter) {
  m_view = new SongView(*this, transport, meter, this);
  m_view->setObjectName(QStringLiteral("song"));
  setFocusProxy(m_view);
  m_name = new QLineEdit(this);
  m_name->setAccessibleName(tr("Name of the section"));
  m_name->setFixedWidth(px(140));
  m_pattern = new Combo(tr("Pattern of the section"), tr("Which pattern this section plays"), this);
  m_pattern->setMinimumWidth(px(110));
  m_bars = new Slide(QString(), {1, 32, 4, 1, 0}, tr("bars"), this);
  m_bars->setId(QStringLiteral("section.bars"));
  m_bars->setAccessibleName(tr("Bars of the section"));
  m_bars->setFixedWidth(px(110));
  m_head = new StageHead(this);
  using Stays = ControlRow::Stays;
  m_head->say(tr("Song"), {});
  m_head->addStretch();
  auto* from = new Button(Sign::Play, tr("Play from here"),
                          tr("Play the song from this section (Ctrl+Return)"), m_head);
  m_head->add(from);
  m_next = m_head->addNext(QString(), QString());
  connect(m_next, &QAbstractButton::clicked, this, &SongStage::doNext);
  auto* section = new ControlRow(this);
  auto* add = new Button(Sign::Add, tr("Add section"),
                         tr("Another section after this one (Insert)"), section);
  auto* earlier = new Button(tr("Earlier"), tr("Move this section earlier (Ctrl+Left)"), section);
  auto* later = new Button(tr("Later"), tr("Move this section later (Ctrl+Right)"), section);
  auto* remove = new Button(Sign::Remove, tr("Remove"),
                            tr("Remove this section; can be undone (Delete)"), section);
  remove->setWeight(Button::Weight::Danger);
  connectSection();
  addCommands({add, remove, earlier, later, from});
  for (QWidget* w : std::initializer_list<QWidget*>{m_name, m_pattern, m_bars})
    section->add(w, Stays::Always);
  section->addStretch();
  section->add(add);
  for (Button* button : {earlier, later, remove}) section->add(button, Stays::UnderMore);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(20), px(12), px(12), px(12));
  column->setSpacing(px(8));
  column->addWidget(m_head);
  column->addWidget(section);
  column->addWidget(m_view, 1);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &SongStage::refresh);
  connect(&transport, &Transport::changed, this, &SongStage::refreshNext);
  refresh();
}

void SongStage::connectSection() {
  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    changeSection(tr("Name a section"),
                  [this](Section& s) { s.name = m_name->text().trimmed().toStdString(); });
  });
  connect(m_name, &QLineEdit::returnPressed, this, [this] { m_view->setFocus(); });
  connect(m_pattern, &QComboBox::activated, this, [this](int at) {
    changeSection(tr("Pattern of a section"),
                  [this, at](Section& s) { s.pattern = Id(m_pattern->itemData(at).toUInt()); });
  });
  connect(m_bars, &Slide::changed, this, [this](double v, bool settled) {
    edit(tr("Bars of a section"),
         withSectionChanged(project(), selection().section, [v](Section& s) { s.bars = int(v); }),
         QStringLiteral("section bars"));
    if (settled) settle();
  });
}

void SongStage::addCommands(const Acts& acts) {
  auto* addAction = addCommand(tr("Add a section"), QKeySequence(Qt::Key_Insert), [this] {
    const Project& p = project();
    Section section;
    section.name = tr("Section %1").arg(p.sections.size() + 1).toStdString();
    section.pattern = selection().pattern;
    std::size_t place = p.sections.size();
    for (std::size_t i = 0; i < p.sections.size(); ++i)
      if (p.sections[i].id == selection().section) place = i + 1;
    Id added = 0;
    edit(tr("Add a section"), withSection(p, section, place, &added));
    selectSection(added);
  });
  auto* removeAction = addCommand(tr("Remove the section"), QKeySequence(Qt::Key_Delete), [this] {
    edit(tr("Remove a section"), withoutSection(project(), selection().section));
  });
  auto* earlierAction =
      addCommand(tr("Section earlier"), QKeySequence(Qt::CTRL | Qt::Key_Left), [this] {
        edit(tr("Move a section"), withSectionMoved(project(), selection().section, -1));
      });
  auto* laterAction =
      addCommand(tr("Section later"), QKeySequence(Qt::CTRL | Qt::Key_Right), [this] {
        edit(tr("Move a section"), withSectionMoved(project(), selection().section, 1));
      });
  auto* fromAction =
      addCommand(tr("Play from this section"), QKeySequence(Qt::CTRL | Qt::Key_Return), [this] {
        for (const auto& placed : timelineOf(project()).sections)
          if (placed.section == selection().section) {
            m_transport.setPlays(Plays::Song);
            m_transport.play(inBeats(placed.start));
          }
      });
  addCommand(tr("Section before"), QKeySequence(Qt::Key_Left), [this] { step(-1); });
  addCommand(tr("Next section"), QKeySequence(Qt::Key_Right), [this] { step(1); });
  for (const auto& [chip, action] : {std::pair{acts.add, addAction},
                                     {acts.remove, removeAction},
                                     {acts.earlier, earlierAction},
                                     {acts.later, laterAction},
                                     {acts.from, fromAction}})
    connect(chip, &QAbstractButton::clicked, action, &QAction::trigger);
}

void SongStage::step(int steps) {
  const auto& sections = project().sections;
  for (std::size_t i = 0; i < sections.size(); ++i)
    if (sections[i].id == selection().section) {
      const auto next = std::ptrdiff_t(i) + steps;
      if (next >= 0 && next < std::ptrdiff_t(sections.size()))
        selectSection(sections[std::size_t(next)].id);
      return;
    }
}

void SongStage::changeSection(const QString& name, const std::function<void(Section&)>& change) {
  edit(name, withSectionChanged(project(), selection().section, change));
}

void SongStage::refresh() {
  const Project& p = project();
  const Section* section = findSection(p, selection().section);
  for (QWidget* w : std::initializer_list<QWidget*>{m_name, m_pattern, m_bars})
    w->setEnabled(section);
  if (!m_name->hasFocus())
    m_name->setText(section ? QString::fromStdString(section->name) : QString());
  m_pattern->clear();
  for (const auto& pattern : p.patterns) {
    m_pattern->addItem(QString::fromStdString(pattern->name), uint(pattern->id));
    if (section && pattern->id == section->pattern)
      m_pattern->setCurrentIndex(m_pattern->count() - 1);
  }
  if (section) m_bars->setValue(section->bars);
  m_head->say(tr("Song"),
              tr("%1 bars · %2")
                  .arg(timelineOf(p).bars)
                  .arg(counted(qint64(p.sections.size()), tr("section"), tr("sections"))));
  refreshNext();
}

void SongStage::refreshNext() {
  if (project().sections.size() < 2) {
    m_next->setSign(Sign::Propose);
    m_next->setSaid(tr("Propose an arrangement"),
                    tr("From this pattern: a thin beginning, the whole, a last bar that differs, a "
                       "thin end; each section can be changed"));
  } else if (!m_transport.playing()) {
    m_next->setSign(Sign::Play);
    m_next->setSaid(tr("Play the song"), tr("From its beginning"));
  } else {
    m_next->setSign(Sign::Print);
    m_next->setSaid(tr("Print it"), tr("Go on with levels and files in Print (F6)"));
  }
}

void SongStage::doNext() {
  if (project().sections.size() < 2) {
    edit(tr("Propose an arrangement"), withFirstSong(project(), selection().pattern));
    if (!project().sections.empty()) selectSection(project().sections.front().id);
    return;
  }
  if (m_transport.playing()) return emit goTo(Stage::Print);
  m_transport.setPlays(Plays::Song);
  m_transport.play(0);
}

void SongStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

double SongStage::cursorBeats() const {
  for (const auto& placed : timelineOf(project()).sections)
    if (placed.section == selection().section) return inBeats(placed.start);
  return 0;
}

} // namespace tuvvo
