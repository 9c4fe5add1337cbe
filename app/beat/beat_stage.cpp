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
#include "session/recorder.h"
#include "session/transport.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/empty_place.h"
#include "widgets/segments.h"
#include "widgets/stage_head.h"
#include "widgets/tabs.h"
#include "widgets/tall_scroll.h"

#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

BeatStage::BeatStage(Panel& host, Transport& transport, Recorder& recorder, Auditions& auditions,
                     PrintService& printing, QWidget* parent)
    : StageView(host, parent), m_transport(transport), m_recorder(recorder), m_printing(printing) {
  m_choice = new HitChoice(*this);
  m_ribbons = new RibbonsView(*this, transport, *m_choice, this);
  m_ribbons->setObjectName(QStringLiteral("ribbons"));
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
  column->setContentsMargins(px(20), px(12), px(12), px(12));
  column->setSpacing(px(8));
  makeHead();
  for (int i = 0; i < m_panels->count(); ++i) m_tabs->setShows(i, m_panels->widget(i));
  makeEmpty();
  column->addWidget(m_head);
  column->addWidget(new AlikeStrip(*this, *m_ribbons, transport, this));
  column->addWidget(area, 1);
  column->addWidget(m_panels);
  column->addWidget(m_empty);
  connectTop();
  connect(m_choice, &HitChoice::changed, this, &BeatStage::fitPanel);
  connect(m_ribbons, &RibbonsView::partChanged, this, &BeatStage::refresh);
  connect(m_ribbons, &RibbonsView::cursorMoved, m_tones, &TonesPanel::refresh);
  addCommands();
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &BeatStage::refresh);
  const auto next = [this] { refreshNext(findPattern(project(), selection().pattern).get()); };
  connect(&transport, &Transport::changed, this, next);
  connect(&recorder, &Recorder::changed, this, next);
  openPanel(Feels);
  refresh();
}

void BeatStage::makeHead() {
  m_head = new StageHead(this);
  m_head->say({}, {}); // the pattern's name stands there
  using Stays = ControlRow::Stays;
  m_patterns = new Combo(
      tr("Pattern"),
      tr("The pattern that is shown and played (Page Up, Page Down); type to rename it"), this);
  m_patterns->setTyped();
  m_patterns->setFont(theme::font(theme::Type::Strong));
  m_patterns->setFixedWidth(px(150));
  m_head->add(m_patterns, Stays::Always);
  m_family = new Segments(tr("Alternatives"), Segments::Picks::One, m_head);
  connect(m_family, &Segments::wanted, this, [this](int index) {
    const auto all = familyOf(project(), selection().pattern);
    if (std::size_t(index) < all.size()) selectPattern(all[std::size_t(index)]->id);
  });
  m_head->add(m_family);
  m_tabs = m_head->addTabs(tr("Under the ribbons"));
  const std::array<std::pair<QString, QString>, kPanels> panels{
      std::pair{tr("Feel"), tr("How the chosen part feels (Ctrl+1)")},
      {tr("Hits"), tr("What the chosen hits do (Ctrl+2)")},
      {tr("Break"), tr("What a break plays: read it, play it, rebuild it, follow it (Ctrl+3)")},
      {tr("Bass"), tr("A bass that follows the chords, and chords by name (Ctrl+4)")},
      {tr("Change"), tr("Against sameness: another last bar, rests, a thin intro (Ctrl+5)")},
      {tr("Low end"), tr("Kick against bass, and who plays when (Ctrl+6)")}};
  for (const auto& [text, tip] : panels) m_tabs->add(text, tip);
  connect(m_tabs, &Tabs::wanted, this, &BeatStage::openPanel);
  m_partName = new Label(theme::Type::Strong, theme::Ink::Text, m_head);
  m_partName->setLeast(1);
  m_fresh = new Label(theme::Type::Small, theme::Ink::Quiet, m_head);
  m_fresh->setLeast(1);
  m_fresh->setToolTip(
      tr("How far its slices are from the order, rhythm, pitch and length that their "
         "source had: 0 as it was, 1 all new"));
  m_head->addGap();
  m_head->add(m_partName, Stays::Always);
  m_head->add(m_fresh, Stays::Always);
  m_head->addStretch();
  makePatternFigures();
  for (QWidget* w : std::initializer_list<QWidget*>{m_bars, m_meter, m_grid})
    m_head->add(w, Stays::UnderMore);
  m_inSong =
      new Button(tr("Use in the song"),
                 tr("Sections that play an alternative of this pattern play this one"), this);
  m_head->add(m_inSong, Stays::UnderMore);
  m_more =
      new Button(tr("Pattern"), tr("New, copy, double, alternatives, split, join, remove"), this);
  m_more->setOpens(true);
  m_head->add(m_more);
  m_next = m_head->addNext(QString(), QString());
  connect(m_next, &QAbstractButton::clicked, this, &BeatStage::doNext);
}

void BeatStage::makePatternFigures() {
  m_bars = new Slide(tr("Bars"), {1, kMostBars, 2, 1, 0}, tr("bars"), this);
  m_bars->setId(QStringLiteral("pattern.bars"));
  m_bars->setFixedWidth(px(88));
  m_meter = new Combo(tr("Meter"), tr("Beats in a bar; type any other, such as 11/8"), this);
  m_meter->setTyped();
  m_meter->setFixedWidth(px(80));
  for (const char* meter :
       {"4/4", "3/4", "2/4", "5/4", "6/4", "7/4", "6/8", "5/8", "7/8", "9/8", "12/8"})
    m_meter->addItem(QString::fromLatin1(meter));
  m_grid = new Combo(tr("Grid"), tr("Lines that hits are set on"), this);
  m_grid->addItems(gridNames());
  m_grid->addItem(tr("no grid"));
  m_grid->setCurrentIndex(gridIndex(4));
}

void BeatStage::openPanel(int panel) {
  m_panels->setCurrentIndex(panel);
  refreshPanel();
  fitPanel();
  if (panel == Tones) m_tones->openRibbon();
  m_tabs->choose(panel);
  refreshNext(findPattern(project(), selection().pattern).get());
}

/// The ribbons have what the panel does not need.
void BeatStage::fitPanel() {
  static constexpr std::array<int, kPanels> heights{44, 96, 236, 96, 76, 140};
  const int panel = m_panels->currentIndex();
  const bool nothing = panel == Hits && m_choice->empty();
  const bool treated = panel == Hits && !m_choice->first().treatments.empty();
  m_panels->setMaximumHeight(px(nothing ? 36 : heights[std::size_t(panel)] + (treated ? 46 : 0)));
}

double BeatStage::cursorBeats() const { return inBeats(m_ribbons->cursor()); }

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
  addPatternMenu();
}

void BeatStage::addPatternMenu() {
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
  entry(tr("Write ribbons of their own length out"), {}, [this] {
    changePattern(tr("Write ribbons out"), [](Pattern& p) { p = writtenOut(std::move(p)); });
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
  command(tr("Quantise the part"), Qt::CTRL | Qt::Key_G, [this] { m_feel->quantiseNow(); });
  command(tr("Remove the chosen hits"), Qt::Key_Delete, [this] { m_choice->remove(); });
  command(tr("Choose all hits of the part"), Qt::CTRL | Qt::Key_A,
          [this] { m_choice->chooseAll(m_ribbons->currentPart()); });
  command(tr("Copy hits"), Qt::CTRL | Qt::Key_C, [this] { m_choice->copy(); });
  command(tr("Cut hits"), Qt::CTRL | Qt::Key_X, [this] { m_choice->cut(); });
  command(tr("Paste hits"), Qt::CTRL | Qt::Key_V, [this] { m_choice->paste(m_ribbons->cursor()); });
  command(tr("Send the hits to another key"), ctrlShift | Qt::Key_K, [this] {
    openPanel(Hits);
    m_hit->offerKeys();
  });
  command(tr("Treat the chosen hits"), ctrlShift | Qt::Key_Y, [this] {
    openPanel(Hits);
    m_hit->offerTreatments();
  });
  constexpr auto altShift = Qt::ALT | Qt::SHIFT;
  command(tr("Hits a step of the scale higher"), ctrlShift | Qt::Key_Up,
          [this] { m_choice->step(1); });
  command(tr("Hits a step of the scale lower"), ctrlShift | Qt::Key_Down,
          [this] { m_choice->step(-1); });
  command(tr("Hits an octave higher"), altShift | Qt::Key_Up, [this] { m_choice->step(7); });
  command(tr("Hits an octave lower"), altShift | Qt::Key_Down, [this] { m_choice->step(-7); });
  command(tr("Paste hits to the end"), ctrlShift | Qt::Key_V,
          [this] { m_choice->pasteRepeated(m_ribbons->cursor()); });
  const auto around = [this] { return m_ribbons->from() + m_ribbons->shown() / 2; };
  command(tr("Show less of the pattern"), Qt::ALT | Qt::Key_Plus,
          [this, around] { m_ribbons->zoom(0.5, around()); });
  command(tr("Show more of the pattern"), Qt::ALT | Qt::Key_Minus,
          [this, around] { m_ribbons->zoom(2, around()); });
  command(tr("Show all of the pattern"), Qt::ALT | Qt::Key_0, [this] { m_ribbons->showAll(); });
  command(tr("Feel of the part"), Qt::CTRL | Qt::Key_1, [this] { openPanel(Feels); });
  command(tr("Chosen hits"), Qt::CTRL | Qt::Key_2, [this] { openPanel(Hits); });
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

/// One segment an alternative, where there are any.
void BeatStage::refreshFamily(const Pattern& pattern) {
  const auto family = familyOf(project(), pattern.id);
  const int wanted = family.size() > 1 ? int(family.size()) : 0;
  while (m_family->count() < wanted)
    m_family->add(QString::number(m_family->count() + 1), tr("An alternative of this pattern"));
  for (int i = 0; i < m_family->count(); ++i) {
    m_family->segment(i)->setVisible(i < wanted);
    if (i < wanted && family[std::size_t(i)]->id == pattern.id) m_family->choose(i);
  }
  m_family->setVisible(wanted > 0);
  m_inSong->setVisible(wanted > 0);
}

/// What the work goes on with: first hits, then hearing them, then a song of them.
void BeatStage::refreshNext(const Pattern* pattern) {
  const bool empty = pattern && isEmpty(*pattern);
  const bool asks = empty && m_tabs->chosen() != Break && !m_recorder.recording();
  m_empty->setVisible(asks);
  m_panels->setVisible(!asks);
  const Source* source = findSource(project(), selection().source);
  m_laySource->setVisible(source && !source->cuts.empty());
  m_next->setVisible(!asks);
  if (m_recorder.recording()) {
    m_next->setSign(Sign::Stop);
    m_next->setSaid(tr("End the take"), tr("What you played stays in the pattern (Ctrl+R)"));
  } else if (!m_transport.playing()) {
    m_next->setSign(Sign::Play);
    m_next->setSaid(tr("Play"), tr("The pattern, round and round (Space)"));
  } else if (project().sections.size() < 2) {
    m_next->setSign(Sign::Propose);
    m_next->setSaid(tr("Make a song of it"), tr("Go on with sections in Song (F5)"));
  } else {
    m_next->setSign(Sign::Record);
    m_next->setSaid(tr("Play it in"), tr("Record what you play on the deck (Ctrl+R)"));
  }
}

void BeatStage::doNext() {
  if (m_recorder.recording()) return m_recorder.toggleRecord();
  if (!m_transport.playing()) {
    m_transport.setPlays(Plays::Pattern);
    return m_transport.play();
  }
  if (project().sections.size() < 2) return emit goTo(Stage::Song);
  m_recorder.toggleRecord();
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
  refreshNext(pattern.get());
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
