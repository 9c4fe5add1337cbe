#include "beat/beat_stage.h"

#include "beat/alike_strip.h"
#include "beat/feel_leaf.h"
#include "beat/grids.h"
#include "beat/pattern_edits.h"
#include "beat/pin_leaf.h"
#include "beat/ribbons_view.h"
#include "formats/smf_beat.h"
#include "model/edits.h"
#include "play/print.h"
#include "theme/theme.h"
#include "widgets/combo.h"
#include "widgets/tall_scroll.h"

#include <QFileDialog>
#include <QLabel>
#include <QLineEdit>
#include <QMenu>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

BeatStage::BeatStage(Session& session, QWidget* parent) : StageView(session, parent) {
  m_choice = new PinChoice(session, this);
  m_ribbons = new RibbonsView(session, *m_choice, this);
  setFocusProxy(m_ribbons);
  auto* area = new QScrollArea(this);
  area->setWidgetResizable(true);
  area->setWidget(m_ribbons);
  area->setFocusPolicy(Qt::NoFocus);
  area->setMinimumHeight(px(96));
  area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  m_feel = new FeelLeaf(session, *m_ribbons, this);
  m_pin = new PinLeaf(session, *m_choice, *m_ribbons, this);
  m_leaves = new QStackedWidget(this);
  for (QWidget* leaf : std::initializer_list<QWidget*>{m_feel, m_pin})
    m_leaves->addWidget(new TallScroll(leaf, px(50), this));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(20), px(12), px(10), px(10));
  column->setSpacing(px(6));
  column->addLayout(makeTop());
  column->addWidget(new AlikeStrip(session, *m_ribbons, this));
  column->addWidget(area, 1);
  column->addLayout(makeTabs());
  column->addWidget(m_leaves);
  connectTop();
  connect(m_ribbons, &RibbonsView::partChanged, this, &BeatStage::refresh);
  addCommands();
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, &BeatStage::refresh);
  openLeaf(Feels);
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
  const std::array<std::pair<QString, QString>, 2> leaves{
      std::pair{tr("Feel"), tr("How the chosen part feels (Ctrl+1)")},
      {tr("Pins"), tr("What the chosen pins do (Ctrl+2)")}};
  for (std::size_t i = 0; i < leaves.size(); ++i) {
    m_tabs[i] = new Chip(leaves[i].first, leaves[i].second, this);
    m_tabs[i]->setCheckable(true);
    tabs->addWidget(m_tabs[i]);
    connect(m_tabs[i], &QAbstractButton::clicked, this, [this, i] { openLeaf(int(i)); });
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

void BeatStage::openLeaf(int leaf) {
  m_leaves->setCurrentIndex(leaf);
  m_leaves->setMaximumHeight(px(leaf == Feels ? 96 : 138));
  for (std::size_t i = 0; i < m_tabs.size(); ++i) m_tabs[i]->setChecked(int(i) == leaf);
}

bool BeatStage::showLeaf(const QString& name) {
  const QStringList leaves{QStringLiteral("feel"), QStringLiteral("pins")};
  if (!leaves.contains(name)) return false;
  openLeaf(int(leaves.indexOf(name)));
  if (name == leaves[Pins]) m_choice->chooseClass(m_ribbons->currentPart(), BeatClass::OffBeats);
  return true;
}

void BeatStage::connectTop() {
  connect(m_patterns, &QComboBox::activated, this,
          [this](int at) { m_session.selectPattern(Id(m_patterns->itemData(at).toUInt())); });
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
    m_session.edit(tr("Use this pattern in the song"),
                   withFamilyPlaying(m_session.project(), m_session.selection().pattern));
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
  entry(tr("Read a MIDI file…"), {}, [this] { askForMidi(false); });
  entry(tr("Write as a MIDI file…"), {}, [this] { askForMidi(true); });
  entry(tr("Remove with its sections"), {}, [this] {
    if (m_session.project().patterns.size() < 2)
      emit m_session.message(tr("The last pattern stays."), false);
    m_session.edit(tr("Remove a pattern"),
                   withoutPattern(m_session.project(), m_session.selection().pattern));
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
  command(tr("Read a MIDI file as a pattern"), {}, [this] { askForMidi(false); });
  command(tr("Write the pattern as a MIDI file"), {}, [this] { askForMidi(true); });
  command(tr("Pull the part to the grid"), Qt::CTRL | Qt::Key_G, [this] { m_feel->pullNow(); });
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
  command(tr("Feel of the part"), Qt::CTRL | Qt::Key_1, [this] { openLeaf(Feels); });
  command(tr("Chosen pins"), Qt::CTRL | Qt::Key_2, [this] { openLeaf(Pins); });
  const auto turn = [this](int steps) {
    const auto& patterns = m_session.project().patterns;
    for (std::size_t i = 0; i < patterns.size(); ++i)
      if (patterns[i]->id == m_session.selection().pattern) {
        const auto next = std::ptrdiff_t(i) + steps;
        if (next >= 0 && next < std::ptrdiff_t(patterns.size()))
          m_session.selectPattern(patterns[std::size_t(next)]->id);
        return;
      }
  };
  command(tr("Next pattern"), Qt::Key_PageDown, [turn] { turn(1); });
  command(tr("Pattern before"), Qt::Key_PageUp, [turn] { turn(-1); });
}

void BeatStage::changePattern(const QString& name, const std::function<void(Pattern&)>& change) {
  m_session.edit(name,
                 withPatternChanged(m_session.project(), m_session.selection().pattern, change));
}

void BeatStage::addPattern(bool copy) {
  Pattern pattern;
  if (const PatternPtr now = findPattern(m_session.project(), m_session.selection().pattern)) {
    if (copy) pattern = *now;
    pattern.meter = now->meter;
  }
  pattern.family = 0;
  pattern.name = copy ? pattern.name + " 2"
                      : std::string(1, char('A' + int(m_session.project().patterns.size()) % 26));
  Id added = 0;
  m_session.edit(copy ? tr("Copy a pattern") : tr("New pattern"),
                 withPattern(m_session.project(), pattern, &added));
  m_session.selectPattern(added);
}

void BeatStage::addAlternative() {
  Id added = 0;
  m_session.edit(tr("Alternative of a pattern"),
                 withAlternative(m_session.project(), m_session.selection().pattern, &added));
  m_session.selectPattern(added);
}

void BeatStage::doubleLength() {
  const PatternPtr pattern = findPattern(m_session.project(), m_session.selection().pattern);
  if (!pattern) return;
  if (pattern->bars * 2 > kMostBars)
    return emit m_session.message(tr("A pattern has at most %1 bars.").arg(kMostBars), false);
  changePattern(tr("Double the pattern"),
                [](Pattern& p) { p = withBars(std::move(p), p.bars * 2); });
}

void BeatStage::splitAtCursor() {
  const PatternPtr pattern = findPattern(m_session.project(), m_session.selection().pattern);
  if (!pattern) return;
  const int bar = int(m_ribbons->cursor().value / barOf(pattern->meter).value);
  if (bar < 1 || bar >= pattern->bars)
    return emit m_session.message(
        tr("Put the cursor into the bar that the second half begins with."), false);
  Pattern first = barsOf(*pattern, 0, bar), second = barsOf(*pattern, bar, pattern->bars - bar);
  first.name += " a";
  second.name += " b";
  first.family = second.family = 0;
  Id added = 0;
  Project next = withPattern(m_session.project(), std::move(first), &added);
  m_session.edit(tr("Split a pattern"), withPattern(std::move(next), std::move(second)));
  m_session.selectPattern(added);
  emit m_session.message(tr("Both halves are patterns of their own; this one stays as it was."),
                         false);
}

void BeatStage::joinWithNext() {
  const auto& all = m_session.project().patterns;
  const auto found = std::find_if(all.begin(), all.end(), [&](const PatternPtr& p) {
    return p->id == m_session.selection().pattern;
  });
  if (found == all.end() || std::next(found) == all.end())
    return emit m_session.message(tr("No pattern comes after this one."), false);
  const Pattern &first = **found, &second = **std::next(found);
  Pattern both = joined(m_session.project(), first, second);
  both.name = first.name + " + " + second.name;
  both.family = 0;
  Id added = 0;
  m_session.edit(tr("Join two patterns"),
                 withPattern(m_session.project(), std::move(both), &added));
  m_session.selectPattern(added);
}

void BeatStage::askForMidi(bool write) {
  const QString kinds = tr("MIDI files (*.mid *.midi)");
  const PatternPtr pattern = findPattern(m_session.project(), m_session.selection().pattern);
  const QString path =
      write ? QFileDialog::getSaveFileName(
                  this, tr("Write the pattern as a MIDI file"),
                  QString::fromStdString(fileNameOf(pattern ? pattern->name : "pattern")) +
                      QStringLiteral(".mid"),
                  kinds)
            : QFileDialog::getOpenFileName(this, tr("Read a MIDI file"), QString(), kinds);
  if (!path.isEmpty()) write ? writeMidi(path) : readMidi(path);
}

void BeatStage::readMidi(const QString& path) {
  SmfReading reading;
  reading.tones = m_session.selection().key;
  if (m_ribbons->grid() > 0) reading.perBeat = m_ribbons->grid();
  const auto read = readSmfBeat(path.toStdString(), m_session.project(),
                                QFileInfo(path).completeBaseName().toStdString(), reading);
  if (!read) {
    emit m_session.message(QString::fromStdString(read.error().text()), true);
    return;
  }
  Id added = 0;
  m_session.edit(tr("Read a MIDI file"), withPattern(m_session.project(), read->pattern, &added));
  m_session.selectPattern(added);
  QString said = tr("Read as a pattern. The file is at %1 BPM.").arg(read->tempo.value, 0, 'g', 5);
  for (const auto& warning : read->warnings)
    said += QLatin1Char(' ') + QString::fromStdString(warning);
  emit m_session.message(said, !read->warnings.empty());
}

void BeatStage::writeMidi(const QString& path) {
  const auto written = writeSmf(compilePattern(m_session.project(), m_session.selection().pattern),
                                m_session.project(), false, path.toStdString());
  emit m_session.message(written ? tr("Written: %1").arg(path)
                                 : QString::fromStdString(written.error().text()),
                         !written);
}

void BeatStage::setMeter(const QString& name) {
  const PatternPtr pattern = findPattern(m_session.project(), m_session.selection().pattern);
  const auto meter = meterFromName(name.toStdString());
  if (!meter) {
    emit m_session.message(tr("“%1” is no meter. Write beats and note, such as 7/8.").arg(name),
                           true);
    refresh();
  } else if (pattern && *meter != pattern->meter) {
    changePattern(tr("Meter of the pattern"),
                  [&](Pattern& p) { p = withMeter(std::move(p), *meter); });
  }
}

/// One chip an alternative, where there are any.
void BeatStage::refreshFamily(const Pattern& pattern) {
  const auto family = familyOf(m_session.project(), pattern.id);
  const std::size_t wanted = family.size() > 1 ? family.size() : 0;
  while (std::size_t(m_alternatives.size()) < wanted) {
    const int index = int(m_alternatives.size());
    auto* chip = new Chip(QString::number(index + 1), tr("An alternative of this pattern"), this);
    chip->setCheckable(true);
    connect(chip, &QAbstractButton::clicked, this, [this, index] {
      const auto all = familyOf(m_session.project(), m_session.selection().pattern);
      if (std::size_t(index) < all.size()) m_session.selectPattern(all[std::size_t(index)]->id);
    });
    m_family->addWidget(chip);
    m_alternatives << chip;
  }
  while (std::size_t(m_alternatives.size()) > wanted) m_alternatives.takeLast()->deleteLater();
  for (std::size_t i = 0; i < wanted; ++i)
    m_alternatives[qsizetype(i)]->setChecked(family[i]->id == pattern.id);
  m_inSong->setVisible(wanted > 0);
}

void BeatStage::refresh() {
  const Project& p = m_session.project();
  const PatternPtr pattern = findPattern(p, m_session.selection().pattern);
  m_feel->refresh();
  m_pin->refresh();
  const Part* part = findPart(p, m_ribbons->currentPart());
  m_partName->setText(part ? QString::fromStdString(part->name) : tr("No part"));
  m_fresh->setText(m_feel->newness());
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

void BeatStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
