#include "beat/beat_stage.h"

#include "beat/pins.h"
#include "beat/ribbons_view.h"
#include "cut/newness.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/combo.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QScrollArea>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

namespace {
constexpr std::array<int, 6> kGrids{1, 2, 3, 4, 6, 8};
}

std::vector<int> barsAlike(const Pattern& pattern, int beatsPerBar) {
  const std::int64_t bar = kTicksPerBeat * beatsPerBar;
  const auto contents = [&](int index) {
    std::vector<std::tuple<Id, std::int64_t, Id, int>> out;
    for (const auto& lane : pattern.lanes)
      for (const auto& pin : lane.pins)
        if (pin.at.value / bar == index)
          out.emplace_back(lane.part, pin.at.value % bar, pin.key, int(pin.tune.value));
    std::sort(out.begin(), out.end());
    return out;
  };
  std::vector<int> alike;
  for (int i = 0; i < pattern.bars; ++i) {
    int first = i;
    for (int k = 0; k < i && first == i; ++k)
      if (contents(k) == contents(i)) first = k;
    alike.push_back(first);
  }
  return alike;
}

AlikeStrip::AlikeStrip(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  setAccessibleName(tr("Bars alike"));
  setToolTip(tr("Bars with the same letter hold the same hits."));
  setFixedHeight(px(22));
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, qOverload<>(&QWidget::update));
}

void AlikeStrip::paintEvent(QPaintEvent*) {
  const auto& c = theme::colours();
  QPainter p(this);
  p.setRenderHint(QPainter::Antialiasing);
  const PatternPtr pattern = findPattern(m_session.project(), m_session.selection().pattern);
  if (!pattern) return;
  const auto alike = barsAlike(*pattern, m_session.project().beatsPerBar);
  const double left = px(124), w = (width() - left - px(9)) / double(alike.size());
  theme::drawText(p, QRectF(px(12), 0, left - px(16), height()), Qt::AlignLeft | Qt::AlignVCenter,
                  tr("bars alike"), theme::Type::Small, c.quiet);
  QHash<int, int> letters;
  for (std::size_t i = 0; i < alike.size(); ++i) {
    if (!letters.contains(alike[i])) letters[alike[i]] = int(letters.size());
    const int letter = letters[alike[i]];
    const QRectF box(left + w * double(i), px(2), w - px(3), height() - px(6));
    p.setPen(Qt::NoPen);
    p.setBrush(theme::mixed(c.slate, c.panel, letter % 2 ? 0.22 : 0.5));
    p.drawRoundedRect(box, 4, 4);
    theme::drawText(p, box.adjusted(px(8), 0, -px(6), 0), Qt::AlignLeft | Qt::AlignVCenter,
                    QString::number(i + 1), theme::Type::Small, c.text);
    theme::drawText(p, box.adjusted(px(8), 0, -px(8), 0), Qt::AlignRight | Qt::AlignVCenter,
                    QString(QChar('A' + letter)), theme::Type::Small, c.text);
  }
}

BeatStage::BeatStage(Session& session, QWidget* parent) : StageView(session, parent) {
  m_ribbons = new RibbonsView(session, this);
  setFocusProxy(m_ribbons);
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
  m_grid = new Combo(tr("Grid"), tr("Lines that pins are set on"), this);
  m_grid->addItems({tr("quarters"), tr("eighths"), tr("8th triplets"), tr("sixteenths"),
                    tr("16th triplets"), tr("32nds")});
  m_grid->setCurrentIndex(3);
  auto* add = new Chip(tr("New"), tr("A new, empty pattern (Ctrl+Shift+N)"), this);
  auto* copy = new Chip(tr("Copy"), tr("A copy of this pattern to change (Ctrl+Shift+D)"), this);
  auto* twice = new Chip(tr("Double"),
                         tr("Twice as long, with what it has played again (Ctrl+Shift+B)"), this);
  auto* remove =
      new Chip(tr("Remove"), tr("Remove this pattern and its sections; can be undone"), this);
  auto* top = new QHBoxLayout;
  top->setSpacing(px(6));
  top->addWidget(m_patterns);
  top->addWidget(m_bars);
  top->addWidget(m_grid);
  top->addStretch();
  for (Chip* chip : {add, copy, twice, remove}) top->addWidget(chip);

  auto* area = new QScrollArea(this);
  area->setWidgetResizable(true);
  area->setWidget(m_ribbons);
  area->setFocusPolicy(Qt::NoFocus);
  area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);

  m_partName = new QLabel(this);
  m_partName->setFont(theme::font(theme::Type::Strong));
  m_swing = new Slide(tr("Swing"), {50, 75, 50, 1, 0}, tr("%"), this);
  m_swingWhat = new Chip(tr("of sixteenths"), tr("Whether eighths or sixteenths swing"), this);
  m_lean = new Slide(tr("Lean of the part"), {-60, 60, 0, 1, 0}, tr("ms"), this);
  m_strength = new Slide(tr("Pull"), {0, 100, 100, 5, 0}, tr("%"), this);
  m_strength->setToolTip(tr("How far pins are pulled to the grid: 0 leaves them as played"));
  m_pull = new Chip(tr("Pull to grid"),
                    tr("Pull this part's pins towards the grid by that strength (Ctrl+G)"), this);
  m_takes = new Chip(tr("Pull takes"),
                     tr("Pull what is recorded on this part by the same strength while it is laid"),
                     this);
  m_takes->setCheckable(true);
  auto* feel = new QHBoxLayout;
  feel->setSpacing(px(10));
  m_fresh = new QLabel(this);
  m_fresh->setFont(theme::font(theme::Type::Small));
  m_fresh->setToolTip(
      tr("How far its slices are from the order, rhythm, pitch and length that their "
         "source had: 0 as it was, 1 all new"));
  feel->addWidget(m_partName);
  feel->addWidget(m_fresh, 1);
  for (QWidget* w :
       std::initializer_list<QWidget*>{m_swing, m_swingWhat, m_lean, m_strength, m_pull, m_takes})
    feel->addWidget(w, 0, Qt::AlignBottom);
  for (Slide* slide : {m_swing, m_lean, m_strength}) slide->setFixedWidth(px(104));

  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(20), px(12), px(10), px(10));
  column->setSpacing(px(6));
  column->addLayout(top);
  column->addWidget(new AlikeStrip(session, this));
  column->addWidget(area, 1);
  column->addLayout(feel);

  connect(m_patterns, &QComboBox::activated, this,
          [this](int at) { m_session.selectPattern(Id(m_patterns->itemData(at).toUInt())); });
  connect(m_patterns->lineEdit(), &QLineEdit::textEdited, this, [this] { m_renaming = true; });
  connect(m_patterns->lineEdit(), &QLineEdit::editingFinished, this, [this] {
    if (!std::exchange(m_renaming, false)) return; // choosing from the list is not renaming
    const std::string name = m_patterns->lineEdit()->text().trimmed().toStdString();
    if (!name.empty())
      m_session.edit(tr("Name a pattern"),
                     withPatternChanged(m_session.project(), m_session.selection().pattern,
                                        [&](Pattern& p) { p.name = name; }));
    m_ribbons->setFocus();
  });
  connect(m_bars, &Slide::changed, this, [this](double v, bool) {
    m_session.edit(
        tr("Bars of the pattern"),
        withPatternChanged(m_session.project(), m_session.selection().pattern, [&](Pattern& p) {
          p = withBars(p, int(v), m_session.project().beatsPerBar);
        }));
  });
  connect(m_grid, &QComboBox::activated, this, [this](int at) {
    m_ribbons->grid = kGrids[std::size_t(at)];
    m_ribbons->update();
  });
  connect(add, &QAbstractButton::clicked, this, [this] { addPattern(false); });
  connect(copy, &QAbstractButton::clicked, this, [this] { addPattern(true); });
  connect(twice, &QAbstractButton::clicked, this,
          [this] { emit m_bars->changed(std::min<double>(kMostBars, m_bars->value() * 2), true); });
  connect(remove, &QAbstractButton::clicked, this, [this] {
    if (m_session.project().patterns.size() < 2)
      emit m_session.message(tr("The last pattern stays."), false);
    m_session.edit(tr("Remove a pattern"),
                   withoutPattern(m_session.project(), m_session.selection().pattern));
  });
  connect(m_swing, &Slide::changed, this, [this](double v, bool settled) {
    changeLane(
        tr("Swing"), [v](Lane& l) { l.swing = v; }, settled);
  });
  connect(m_swingWhat, &QAbstractButton::clicked, this, [this] {
    changeLane(
        tr("Swing division"), [](Lane& l) { l.swingPairs = l.swingPairs == 2 ? 1 : 2; }, true);
  });
  connect(m_lean, &Slide::changed, this, [this](double v, bool settled) {
    changeLane(
        tr("Lean of a part"), [v](Lane& l) { l.lean = Milliseconds(v); }, settled);
  });
  const auto pullTakes = [this](double strength) {
    m_session.edit(tr("Pull takes"),
                   withPartChanged(m_session.project(), m_ribbons->currentPart(),
                                   [&](Part& part) {
                                     part.pull = strength;
                                     part.perBeat = m_ribbons->grid;
                                   }),
                   QStringLiteral("pull takes"));
  };
  connect(m_strength, &Slide::changed, this, [this, pullTakes](double v, bool settled) {
    if (m_takes->isChecked()) pullTakes(v / 100);
    if (settled) m_session.settle();
  });
  connect(m_takes, &QAbstractButton::clicked, this, [this, pullTakes] {
    pullTakes(m_takes->isChecked() ? m_strength->value() / 100 : 0);
    m_session.settle();
  });
  connect(m_pull, &QAbstractButton::clicked, this, [this] { quantiseNow(); });
  connect(m_ribbons, &RibbonsView::chosenChanged, this, &BeatStage::refresh);
  addCommands();
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, &BeatStage::refresh);
  refresh();
}

void BeatStage::addCommands() {
  addCommand(tr("New pattern"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_N),
             [this] { addPattern(false); });
  addCommand(tr("Copy the pattern"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_D),
             [this] { addPattern(true); });
  addCommand(tr("Double the pattern"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_B), [this] {
    emit m_bars->changed(std::min<double>(kMostBars, m_bars->value() * 2), true);
  });
  addCommand(tr("Pull the part to the grid"), QKeySequence(Qt::CTRL | Qt::Key_G),
             [this] { quantiseNow(); });
  addCommand(tr("Take the chosen pin out"), QKeySequence(Qt::Key_Delete),
             [this] { m_ribbons->removeChosen(); });
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
  addCommand(tr("Next pattern"), QKeySequence(Qt::Key_PageDown), [turn] { turn(1); });
  addCommand(tr("Pattern before"), QKeySequence(Qt::Key_PageUp), [turn] { turn(-1); });
}

void BeatStage::addPattern(bool copy) {
  Pattern pattern;
  if (const PatternPtr now = findPattern(m_session.project(), m_session.selection().pattern);
      copy && now)
    pattern = *now;
  pattern.name = copy ? pattern.name + " 2"
                      : std::string(1, char('A' + int(m_session.project().patterns.size()) % 26));
  Id added = 0;
  m_session.edit(copy ? tr("Copy a pattern") : tr("New pattern"),
                 withPattern(m_session.project(), pattern, &added));
  m_session.selectPattern(added);
}

void BeatStage::changeLane(const QString& name, const std::function<void(Lane&)>& change,
                           bool settled) {
  const Id part = m_ribbons->currentPart();
  m_session.edit(name,
                 withPatternChanged(m_session.project(), m_session.selection().pattern,
                                    [&](Pattern& p) { change(laneOf(p, part)); }),
                 name + QString::number(part));
  if (settled) m_session.settle();
}

void BeatStage::quantiseNow() {
  changeLane(
      tr("Pull to the grid"),
      [this](Lane& l) {
        l = quantised(l, m_ribbons->grid, m_strength->value() / 100, m_session.project().tempo);
      },
      true);
}

void BeatStage::refresh() {
  const Project& p = m_session.project();
  const PatternPtr pattern = findPattern(p, m_session.selection().pattern);
  if (m_renaming) return;
  m_patterns->clear();
  for (const auto& each : p.patterns) {
    m_patterns->addItem(QString::fromStdString(each->name), uint(each->id));
    if (pattern && each->id == pattern->id) m_patterns->setCurrentIndex(m_patterns->count() - 1);
  }
  if (!pattern) return;
  m_bars->setValue(pattern->bars);
  const Part* part = findPart(p, m_ribbons->currentPart());
  m_partName->setText(part ? QString::fromStdString(part->name) : tr("No part"));
  QString fresh;
  for (const auto& source : p.sources)
    if (const Newness newness = newnessOf(p, *pattern, source->id);
        part && newness.slices > 1 &&
        std::any_of(p.keys.begin(), p.keys.end(), [&](const Key& key) {
          return key.part == part->id && key.sound.source == source->id && key.sound.cut != 0;
        }))
      fresh = tr("%1 new").arg(newness.total, 0, 'f', 2);
  m_fresh->setText(fresh);
  theme::style(m_fresh, QStringLiteral("color:%1").arg(theme::colours().quiet.name()));
  const Lane* lane = part ? findLane(*pattern, part->id) : nullptr;
  m_swing->setValue(lane ? lane->swing : 50);
  m_swingWhat->setText(lane && lane->swingPairs == 1 ? tr("of eighths") : tr("of sixteenths"));
  m_lean->setValue(lane ? lane->lean.value : 0);
  m_takes->setChecked(part && part->pull > 0);
  if (part && part->pull > 0) m_strength->setValue(part->pull * 100);
  for (QWidget* w : std::initializer_list<QWidget*>{m_swing, m_swingWhat, m_lean, m_pull, m_takes})
    w->setEnabled(part);
}

void BeatStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
