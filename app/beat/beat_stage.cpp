#include "beat/beat_stage.h"

#include "beat/alike_strip.h"
#include "beat/break_panel.h"
#include "beat/change_panel.h"
#include "beat/feel_panel.h"
#include "beat/free_space_panel.h"
#include "beat/hit_panel.h"
#include "beat/pattern_edits.h"
#include "beat/ribbons_view.h"
#include "beat/tones_panel.h"
#include "model/edits.h"
#include "parts/grids.h"
#include "theme/theme.h"
#include "widgets/combo.h"
#include "widgets/tall_scroll.h"

#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

BeatStage::BeatStage(Panel& host, Transport& transport, Auditions& auditions,
                     PrintService& printing, QWidget* parent)
    : StageView(host, parent), m_printing(printing) {
  m_choice = new HitChoice(*this);
  m_ribbons = new RibbonsView(*this, transport, *m_choice, this);
  setFocusProxy(m_ribbons);
  auto* area = new QScrollArea(this);
  area->setWidgetResizable(true);
  area->setWidget(m_ribbons);
  area->setFocusPolicy(Qt::NoFocus);
  area->setMinimumHeight(px(96));
  area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  // Once the ribbons have been laid out anew: a ribbon that was opened is taller.
  connect(
      m_ribbons, &RibbonsView::wantsSight, area,
      [area](QRect ribbon) {
        area->ensureVisible(0, ribbon.bottom(), 0, 0);
        area->ensureVisible(0, ribbon.top(), 0, 0);
      },
      Qt::QueuedConnection);
  m_feel = new FeelPanel(*this, *m_ribbons, this);
  m_hit = new HitPanel(*this, *m_choice, *m_ribbons, this);
  m_break = new BreakPanel(*this, auditions, this);
  m_tones = new TonesPanel(*this, *m_ribbons, *m_choice, this);
  m_change = new ChangePanel(*this, *m_ribbons, this);
  m_room = new FreeSpacePanel(*this, this);
  m_panels = new QStackedWidget(this);
  for (QWidget* panel :
       std::initializer_list<QWidget*>{m_feel, m_hit, m_break, m_tones, m_change, m_room})
    m_panels->addWidget(new TallScroll(panel, px(50), this));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(20), px(12), px(10), px(10));
  column->setSpacing(px(6));
  column->addLayout(makeTop());
  column->addWidget(new AlikeStrip(*this, *m_ribbons, this));
  column->addWidget(area, 1);
  column->addLayout(makeTabs());
  column->addWidget(m_panels);
  connectTop();
  connect(m_ribbons, &RibbonsView::partChanged, this, &BeatStage::refresh);
  connect(m_ribbons, &RibbonsView::cursorMoved, m_tones, &TonesPanel::refresh);
  addCommands();
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &BeatStage::refresh);
  openPanel(Feels);
  refresh();
}

QHBoxLayout* BeatStage::makeTop() {
  m_patterns = new Combo(
      tr("Pattern"),
      tr("The pattern that is shown and played (Page Up, Page Down); type to rename it"), this);
  m_patterns->setEditable(true);
  m_patterns->setInsertPolicy(QComboBox::NoInsert);
  m_patterns->setCompleter(nullptr);
  m_patterns->setFont(theme::font(theme::Type::Strong));
  m_patterns->lineEdit()->setFocusPolicy(Qt::ClickFocus);
  m_patterns->setMinimumWidth(px(150));
  m_bars = new Slide(QString(), {1, kMostBars, 2, 1, 0}, tr("bars"), this);
  m_bars->setId(QStringLiteral("pattern.bars"));
  m_bars->setAccessibleName(tr("Bars"));
  m_bars->setFixedWidth(px(82));
  m_meter = new Combo(tr("Meter"), tr("Beats in a bar; type any other, such as 11/8"), this);
  m_meter->setEditable(true);
  m_meter->setInsertPolicy(QComboBox::NoInsert);
  m_meter->lineEdit()->setFocusPolicy(Qt::ClickFocus);
  m_meter->setFixedWidth(px(74));
  for (const char* meter :
       {"4/4", "3/4", "2/4", "5/4", "6/4", "7/4", "6/8", "5/8", "7/8", "9/8", "12/8"})
    m_meter->addItem(QString::fromLatin1(meter));
  m_grid = new Combo(tr("Grid"), tr("Lines that pins are set on"), this);
  m_grid->addItems(gridNames());
  m_grid->addItem(tr("no grid"));
  m_grid->setCurrentIndex(gridIndex(4));
  m_family = new QHBoxLayout;
  m_family->setSpacing(px(4));
  m_inSong = new Chip(tr("Use in the song"),
                      tr("Sections that play an alternative of this pattern play this one"), this);
  m_more =
      new Chip(tr("Pattern…"), tr("New, copy, double, alternatives, split, join, remove"), this);
  auto* top = new QHBoxLayout;
  top->setSpacing(px(6));
  for (QWidget* w : std::initializer_list<QWidget*>{m_patterns, m_bars, m_meter, m_grid})
    top->addWidget(w);
  top->addLayout(m_family);
  top->addWidget(m_inSong);
  top->addStretch();
  top->addWidget(m_more);
  return top;
}

QHBoxLayout* BeatStage::makeTabs() {
  auto* tabs = new QHBoxLayout;
  tabs->setSpacing(px(6));
  const std::array<std::pair<QString, QString>, kPanels> panels{
      std::pair{tr("Feel"), tr("How the chosen part feels (Ctrl+1)")},
      {tr("Pins"), tr("What the chosen pins do (Ctrl+2)")},
      {tr("Break"), tr("What a break plays: read it, play it, rebuild it, follow it (Ctrl+3)")},
      {tr("Bass"), tr("A bass that follows the chords, and chords by name (Ctrl+4)")},
      {tr("Change"), tr("Against sameness: another last bar, rests, a thin intro (Ctrl+5)")},
      {tr("Room"), tr("Kick against bass, and who plays when (Ctrl+6)")}};
  for (std::size_t i = 0; i < panels.size(); ++i) {
    m_tabs[i] = new Chip(panels[i].first, panels[i].second, this);
    m_tabs[i]->setCheckable(true);
    tabs->addWidget(m_tabs[i]);
    connect(m_tabs[i], &QAbstractButton::clicked, this, [this, i] { openPanel(int(i)); });
  }
  m_partName = new QLabel(this);
  m_partName->setFont(theme::font(theme::Type::Strong));
  m_fresh = new QLabel(this);
  m_fresh->setFont(theme::font(theme::Type::Small));
  m_fresh->setToolTip(
      tr("How far its slices are from the order, rhythm, pitch and length that their "
         "source had: 0 as it was, 1 all new"));
  tabs->addSpacing(px(10));
  tabs->addWidget(m_partName);
  tabs->addWidget(m_fresh, 1);
  return tabs;
}

void BeatStage::openPanel(int panel) {
  m_panels->setCurrentIndex(panel);
  refreshPanel();
  static constexpr std::array<int, kPanels> heights{96, 138, 236, 104, 70, 138};
  m_panels->setMaximumHeight(px(heights[std::size_t(panel)]));
  if (panel == Tones) m_tones->openRibbon();
  for (std::size_t i = 0; i < m_tabs.size(); ++i) m_tabs[i]->setChecked(int(i) == panel);
}

bool BeatStage::showPanel(const QString& name) {
  const QStringList panels{QStringLiteral("feel"),   QStringLiteral("pins"),
                           QStringLiteral("break"),  QStringLiteral("bass"),
                           QStringLiteral("change"), QStringLiteral("room")};
  if (!panels.contains(name)) return false;
  openPanel(int(panels.indexOf(name)));
  if (name == panels[Hits]) m_choice->chooseClass(m_ribbons->currentPart(), BeatClass::OffBeats);
  return true;
}

void BeatStage::connectTop() {
  connect(m_patterns, &QComboBox::activated, this,
          [this](int at) { selectPattern(Id(m_patterns->itemData(at).toUInt())); });
  connect(m_patterns->lineEdit(), &QLineEdit::textEdited, this, [this] { m_renaming = true; });
  connect(m_patterns->lineEdit(), &QLineEdit::editingFinished, this, [this] {
    if (!std::exchange(m_renaming, false)) return; // choosing from the list is not renaming
    const std::string name = m_patterns->lineEdit()->text().trimmed().toStdString();
    if (!name.empty()) changePattern(tr("Name a pattern"), [&](Pattern& p) { p.name = name; });
    m_ribbons->setFocus();
  });
  connect(m_bars, &Slide::changed, this, [this](double v, bool) {
    changePattern(tr("Bars of the pattern"),
                  [v](Pattern& p) { p = withBars(std::move(p), int(v)); });
  });
  connect(m_meter, &QComboBox::activated, this,
          [this](int at) { setMeter(m_meter->itemText(at)); });
  connect(m_meter->lineEdit(), &QLineEdit::editingFinished, this,
          [this] { setMeter(m_meter->lineEdit()->text().trimmed()); });
  connect(m_grid, &QComboBox::activated, this, [this](int at) {
    m_ribbons->setGrid(std::size_t(at) < kGrids.size() ? kGrids[std::size_t(at)] : 0);
  });
  connect(m_inSong, &QAbstractButton::clicked, this, [this] {
    edit(tr("Use this pattern in the song"), withFamilyPlaying(project(), selection().pattern));
  });
  auto* menu = new QMenu(this);
  const auto entry = [&](const QString& text, const QString& keys, auto run) {
    QAction* action = menu->addAction(keys.isEmpty() ? text : text + QLatin1Char('\t') + keys);
    connect(action, &QAction::triggered, this, run);
  };
  entry(tr("New, empty"), tr("Ctrl+Shift+N"), [this] { addPattern(false); });
  entry(tr("Copy"), tr("Ctrl+Shift+D"), [this] { addPattern(true); });
  entry(tr("Alternative beside it"), tr("Ctrl+Shift+A"), [this] { addAlternative(); });
  entry(tr("Double the length"), tr("Ctrl+Shift+B"), [this] { doubleLength(); });
  entry(tr("Split at the cursor's bar"), {}, [this] { splitAtCursor(); });
  entry(tr("Join with the next"), {}, [this] { joinWithNext(); });
  entry(tr("Write lanes of their own length out"), {}, [this] {
    changePattern(tr("Write lanes out"), [](Pattern& p) { p = writtenOut(std::move(p)); });
  });
  entry(tr("Copy as text"), {}, [this] { copyAsText(); });
  entry(tr("Paste from text"), {}, [this] { pasteAsText(); });
  entry(tr("Read a MIDI file…"), {}, [this] { askForMidi(false); });
  entry(tr("Write as a MIDI file…"), {}, [this] { askForMidi(true); });
  entry(tr("Remove with its sections"), {}, [this] {
    if (project().patterns.size() < 2) emit message(tr("The last pattern stays."), false);
    edit(tr("Remove a pattern"), withoutPattern(project(), selection().pattern));
  });
  connect(m_more, &QAbstractButton::clicked, this,
          [this, menu] { menu->popup(m_more->mapToGlobal(QPoint(0, m_more->height()))); });
}

void BeatStage::addCommands() {
  const auto command = [this](const QString& text, const QKeySequence& keys, auto run) {
    addCommand(text, keys, run);
  };
  constexpr auto ctrlShift = Qt::CTRL | Qt::SHIFT;
  command(tr("New pattern"), ctrlShift | Qt::Key_N, [this] { addPattern(false); });
  command(tr("Copy the pattern"), ctrlShift | Qt::Key_D, [this] { addPattern(true); });
  command(tr("Alternative of the pattern"), ctrlShift | Qt::Key_A, [this] { addAlternative(); });
  command(tr("Double the pattern"), ctrlShift | Qt::Key_B, [this] { doubleLength(); });
  command(tr("Split the pattern at the cursor"), {}, [this] { splitAtCursor(); });
  command(tr("Join the pattern with the next"), {}, [this] { joinWithNext(); });
  command(tr("Copy the pattern as text"), {}, [this] { copyAsText(); });
  command(tr("Paste a pattern from text"), {}, [this] { pasteAsText(); });
  command(tr("Read a MIDI file as a pattern"), {}, [this] { askForMidi(false); });
  command(tr("Write the pattern as a MIDI file"), {}, [this] { askForMidi(true); });
  command(tr("Pull the part to the grid"), Qt::CTRL | Qt::Key_G, [this] { m_feel->quantiseNow(); });
  command(tr("Take the chosen pins out"), Qt::Key_Delete, [this] { m_choice->remove(); });
  command(tr("Choose all pins of the part"), Qt::CTRL | Qt::Key_A,
          [this] { m_choice->chooseAll(m_ribbons->currentPart()); });
  command(tr("Copy pins"), Qt::CTRL | Qt::Key_C, [this] { m_choice->copy(); });
  command(tr("Cut pins"), Qt::CTRL | Qt::Key_X, [this] { m_choice->cut(); });
  command(tr("Paste pins"), Qt::CTRL | Qt::Key_V, [this] { m_choice->paste(m_ribbons->cursor()); });
  command(tr("Paste pins to the end"), ctrlShift | Qt::Key_V,
          [this] { m_choice->pasteRepeated(m_ribbons->cursor()); });
  const auto around = [this] { return m_ribbons->from() + m_ribbons->shown() / 2; };
  command(tr("Show less of the pattern"), Qt::ALT | Qt::Key_Plus,
          [this, around] { m_ribbons->zoom(0.5, around()); });
  command(tr("Show more of the pattern"), Qt::ALT | Qt::Key_Minus,
          [this, around] { m_ribbons->zoom(2, around()); });
  command(tr("Show all of the pattern"), Qt::ALT | Qt::Key_0, [this] { m_ribbons->showAll(); });
  command(tr("Feel of the part"), Qt::CTRL | Qt::Key_1, [this] { openPanel(Feels); });
  command(tr("Chosen pins"), Qt::CTRL | Qt::Key_2, [this] { openPanel(Hits); });
  command(tr("Read a break"), Qt::CTRL | Qt::Key_3, [this] { openPanel(Break); });
  command(tr("Bass and chords"), Qt::CTRL | Qt::Key_4, [this] { openPanel(Tones); });
  command(tr("Change the pattern"), Qt::CTRL | Qt::Key_5, [this] { openPanel(Change); });
  command(tr("Room for kick and bass"), Qt::CTRL | Qt::Key_6, [this] { openPanel(FreeSpace); });
  command(tr("Open the part's pitch ribbon, or close it"), ctrlShift | Qt::Key_T,
          [this] { m_ribbons->flipOpen(m_ribbons->currentPart()); });
  const auto turn = [this](int steps) {
    const auto& patterns = project().patterns;
    for (std::size_t i = 0; i < patterns.size(); ++i)
      if (patterns[i]->id == selection().pattern) {
        const auto next = std::ptrdiff_t(i) + steps;
        if (next >= 0 && next < std::ptrdiff_t(patterns.size()))
          selectPattern(patterns[std::size_t(next)]->id);
        return;
      }
  };
  command(tr("Next pattern"), Qt::Key_PageDown, [turn] { turn(1); });
  command(tr("Pattern before"), Qt::Key_PageUp, [turn] { turn(-1); });
}

/// One chip an alternative, where there are any.
void BeatStage::refreshFamily(const Pattern& pattern) {
  const auto family = familyOf(project(), pattern.id);
  const std::size_t wanted = family.size() > 1 ? family.size() : 0;
  while (std::size_t(m_alternatives.size()) < wanted) {
    const int index = int(m_alternatives.size());
    auto* chip = new Chip(QString::number(index + 1), tr("An alternative of this pattern"), this);
    chip->setCheckable(true);
    connect(chip, &QAbstractButton::clicked, this, [this, index] {
      const auto all = familyOf(project(), selection().pattern);
      if (std::size_t(index) < all.size()) selectPattern(all[std::size_t(index)]->id);
    });
    m_family->addWidget(chip);
    m_alternatives << chip;
  }
  while (std::size_t(m_alternatives.size()) > wanted) m_alternatives.takeLast()->deleteLater();
  for (std::size_t i = 0; i < wanted; ++i)
    m_alternatives[qsizetype(i)]->setChecked(family[i]->id == pattern.id);
  m_inSong->setVisible(wanted > 0);
}

/// What is worked out from sounds takes a while: only what is seen is made anew.
void BeatStage::refreshPanel() {
  switch (m_panels->currentIndex()) {
  case Break:
    return m_break->refresh();
  case Tones:
    return m_tones->refresh();
  case Change:
    return m_change->refresh();
  case FreeSpace:
    return m_room->refresh();
  default:
    return;
  }
}

void BeatStage::refresh() {
  const Project& p = project();
  const PatternPtr pattern = findPattern(p, selection().pattern);
  m_feel->refresh();
  m_hit->refresh();
  if (isVisible()) refreshPanel();
  const Part* part = findPart(p, m_ribbons->currentPart());
  m_partName->setText(part ? QString::fromStdString(part->name) : tr("No part"));
  m_fresh->setText(m_feel->novelty());
  theme::style(m_fresh, QStringLiteral("color:%1").arg(theme::colours().quiet.name()));
  if (m_renaming) return;
  m_patterns->clear();
  for (const auto& each : p.patterns) {
    m_patterns->addItem(QString::fromStdString(each->name), uint(each->id));
    if (pattern && each->id == pattern->id) m_patterns->setCurrentIndex(m_patterns->count() - 1);
  }
  if (!pattern) return;
  m_bars->setValue(pattern->bars);
  m_meter->setEditText(QString::fromStdString(nameOf(pattern->meter)));
  refreshFamily(*pattern);
}

void BeatStage::showEvent(QShowEvent* event) {
  refreshPanel();
  StageView::showEvent(event);
}

void BeatStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
