#include "cut/slice_panel.h"

#include "cut/level_leaf.h"
#include "cut/out_leaf.h"
#include "cut/treat_leaf.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/flow_row.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QTimer>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

namespace {

/// A filter that is not there stands at its far end.
constexpr double kLowest = 20, kHighest = 20'000;

QString cornerText(double hz, bool high) {
  if (high ? hz <= kLowest : hz >= kHighest) return SlicePanel::tr("open");
  return hz < 1000 ? SlicePanel::tr("%1 Hz").arg(hz, 0, 'f', 0)
                   : SlicePanel::tr("%1 kHz").arg(hz / 1000, 0, 'f', 1);
}

} // namespace

SlicePanel::SlicePanel(Session& session, QWidget* parent) : QWidget(parent), m_session(session) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(2), px(2), px(2), 0);
  column->setSpacing(px(5));
  column->addWidget(makeHead());
  m_pages = {makeSound(),
             makeEdges(),
             makePlaying(),
             m_treat = new TreatLeaf(session, this),
             m_levels = new LevelLeaf(session, this),
             m_out = new OutLeaf(session, this)};
  for (QWidget* page : m_pages) column->addWidget(page);
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, &SlicePanel::refresh);
  showLeaf(Leaf::Sound);
  refresh();
}

QWidget* SlicePanel::makeHead() {
  auto* head = new QWidget(this);
  auto* rows = new QVBoxLayout(head);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(px(4));
  m_name = new QLineEdit(head);
  m_name->setAccessibleName(tr("Name of the slice"));
  m_name->setToolTip(tr("Made from bar, beat, hit and chord; type your own, or clear it to go back "
                        "(Ctrl+Shift+E)"));
  m_name->setFont(theme::font(theme::Type::Strong));
  m_name->setFixedWidth(px(150));
  m_about = new QLabel(head);
  m_about->setFont(theme::font(theme::Type::Small));
  m_about->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  auto* first = new QHBoxLayout;
  first->setSpacing(px(8));
  first->addWidget(m_name);
  first->addWidget(m_about, 1);
  const std::array<std::array<QString, 3>, 3> commands{
      {{tr("Cut here"), tr("Cut in the middle of the slice"),
        tr("Cut the chosen slice in its middle (Insert); double-click cuts anywhere")},
       {tr("Downbeat"), tr("First downbeat at this slice"),
        tr("The chosen slice begins on the first downbeat (Ctrl+Home)")},
       {tr("Remove"), tr("Remove the cut"), tr("Remove the chosen cut (Delete)")}}};
  for (const auto& [text, command, tip] : commands) {
    auto* chip = new Chip(text, tip, head);
    first->addWidget(chip);
    connect(chip, &QAbstractButton::clicked, this,
            [this, command = command] { emit commandWanted(command); });
  }
  rows->addLayout(first);
  const std::array<std::array<QString, 2>, kLeaves> leaves{
      {{tr("Sound"), tr("Level, pan, pitch, filters")},
       {tr("Edges"), tr("Where it starts and ends, fades and envelope")},
       {tr("Playing"), tr("Loop, hold, choke, school and row")},
       {tr("Treat"), tr("Reverse, stutter, isolate and the like; each can be opened again")},
       {tr("Match"), tr("Bring slices to one loudness")},
       {tr("Out"), tr("Write slices for other programs and devices")}}};
  auto* second = new QHBoxLayout;
  second->setSpacing(px(4));
  for (std::size_t i = 0; i < kLeaves; ++i) {
    m_leafChips[i] = new Chip(leaves[i][0], leaves[i][1], head);
    m_leafChips[i]->setCheckable(true);
    second->addWidget(m_leafChips[i]);
    connect(m_leafChips[i], &QAbstractButton::clicked, this, [this, i] { showLeaf(Leaf(i)); });
  }
  second->addStretch();
  rows->addLayout(second);
  connect(m_name, &QLineEdit::editingFinished, this, [this] {
    const auto keys = m_session.chosenKeys();
    const std::string typed = m_name->text().trimmed().toStdString();
    for (Id id : keys) {
      const Key* key = findKey(m_session.project(), id);
      if (key->sound.cut != m_session.selection().cut) continue;
      if (typed != nameOf(m_session.project(), *key))
        m_session.edit(tr("Name a slice"),
                       withKeyChanged(m_session.project(), id, [&](Key& k) { k.name = typed; }));
    }
    refresh();
  });
  connect(m_name, &QLineEdit::returnPressed, this, [this] { parentWidget()->setFocus(); });
  return head;
}

Slide* SlicePanel::keySlide(QWidget* page, const QString& name, const Slide::Range& range,
                            const QString& unit, std::function<double(const Key&)> get,
                            std::function<void(Key&, double)> set) {
  auto* slide = new Slide(name, range, unit, page);
  page->layout()->addWidget(slide);
  connect(slide, &Slide::changed, this, [this, name, set = std::move(set)](double v, bool settled) {
    changeKeys(tr("Slice: %1").arg(name.toLower()), [&](Key& key) { set(key, v); });
    if (settled) m_session.settle();
  });
  m_settings.push_back(
      {slide, [get = std::move(get)](const Key& key, const Cut&) { return get(key); }});
  return slide;
}

Slide* SlicePanel::cutSlide(QWidget* page, const QString& name, const Slide::Range& range,
                            std::function<Milliseconds&(Cut&)> value) {
  auto* slide = new Slide(name, range, tr("ms"), page);
  page->layout()->addWidget(slide);
  connect(slide, &Slide::changed, this, [this, name, value](double v, bool settled) {
    const auto selection = m_session.selection();
    m_session.edit(tr("Slice: %1").arg(name.toLower()),
                   withSourceChanged(m_session.project(), selection.source,
                                     [&](Source& s) {
                                       for (auto& cut : s.cuts)
                                         if (cut.id == selection.cut ||
                                             selection.alsoCuts.contains(cut.id))
                                           value(cut) = Milliseconds(v);
                                     }),
                   name);
    if (settled) m_session.settle();
  });
  m_settings.push_back({slide, [value](const Key&, const Cut& cut) {
                          Cut copy = cut;
                          return value(copy).value;
                        }});
  return slide;
}

namespace {
QWidget* rowPage(QWidget* parent) {
  auto* page = new QWidget(parent);
  auto* row = new QHBoxLayout(page);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(px(8));
  return page;
}
} // namespace

QWidget* SlicePanel::makeSound() {
  auto* page = rowPage(this);
  keySlide(
      page, tr("Level"), {-60, 12, 0, 0.1, 1}, tr("dB"), [](const Key& k) { return k.level.value; },
      [](Key& k, double v) { k.level = Decibels(v); });
  keySlide(
      page, tr("Pan"), {-100, 100, 0, 1, 0}, QString(), [](const Key& k) { return k.pan * 100; },
      [](Key& k, double v) { k.pan = v / 100; });
  keySlide(
      page, tr("Repitch"), {-24, 24, 0, 1, 0}, tr("st"), [](const Key& k) { return k.tune.value; },
      [](Key& k, double v) { k.tune = Semitones(v); });
  keySlide(
      page, tr("Fine"), {-100, 100, 0, 1, 0}, tr("ct"), [](const Key& k) { return k.fine.value; },
      [](Key& k, double v) { k.fine = Cents(v); });
  keySlide(
      page, tr("High-pass"), {kLowest, kHighest, kLowest, 1, 0, true}, tr("Hz"),
      [](const Key& k) { return std::max(kLowest, k.highPass.value); },
      [](Key& k, double v) { k.highPass = Hertz(v <= kLowest ? 0 : v); })
      ->setFormat([](double v) { return cornerText(v, true); });
  keySlide(
      page, tr("Low-pass"), {kLowest, kHighest, kHighest, 1, 0, true}, tr("Hz"),
      [](const Key& k) { return k.lowPass.value > 0 ? k.lowPass.value : kHighest; },
      [](Key& k, double v) { k.lowPass = Hertz(v >= kHighest ? 0 : v); })
      ->setFormat([](double v) { return cornerText(v, false); });
  return page;
}

QWidget* SlicePanel::makeEdges() {
  auto* page = rowPage(this);
  const auto ms = [&](const QString& name, const Slide::Range& range,
                      std::function<Milliseconds&(Key&)> value) {
    keySlide(
        page, name, range, tr("ms"),
        [value](const Key& k) {
          Key copy = k;
          return value(copy).value;
        },
        [value](Key& k, double v) { value(k) = Milliseconds(v); });
  };
  ms(
      tr("Start later"), {0, 500, 0, 1, 0}, [](Key & k) -> auto& { return k.trimStart; });
  ms(
      tr("End sooner"), {0, 2000, 0, 1, 0}, [](Key & k) -> auto& { return k.trimEnd; });
  cutSlide(
      page, tr("Fade in"), {0, 50, 1, 0.5, 1}, [](Cut & c) -> auto& { return c.fadeIn; });
  cutSlide(
      page, tr("Fade out"), {0, 50, 4, 0.5, 1}, [](Cut & c) -> auto& { return c.fadeOut; });
  ms(
      tr("Attack"), {0, 500, 0, 1, 0}, [](Key & k) -> auto& { return k.envelope.attack; });
  ms(
      tr("Hold"), {0, 2000, 0, 5, 0}, [](Key & k) -> auto& { return k.envelope.hold; });
  // A decay to nothing; how much is left of it is the key's own envelope on the Keys stage.
  keySlide(
      page, tr("Decay"), {0, 4000, 0, 5, 0}, tr("ms"),
      [](const Key& k) { return k.envelope.decay.value; },
      [](Key& k, double v) {
        k.envelope.decay = Milliseconds(v);
        k.envelope.sustain = v > 0 ? 0 : 1;
      })
      ->setFormat([](double v) { return v <= 0 ? tr("none") : tr("%1 ms").arg(v, 0, 'f', 0); });
  return page;
}

QWidget* SlicePanel::makePlaying() {
  auto* page = new QWidget(this);
  auto* row = new FlowRow(px(6), page);
  m_reverse = new Chip(tr("Reverse"), tr("Last to first (Ctrl+Shift+R)"), page);
  m_loop = new Chip(tr("Loop"), tr("Goes round while it is held"), page);
  m_held = new Chip(tr("Held"), tr("Sounds while held, or for a pin's length; else to its own end"),
                    page);
  m_choke = new Chip(QString(), tr("Slices with the same letter cut each other off"), page);
  for (Chip* chip : {m_reverse, m_loop, m_held}) chip->setCheckable(true);
  row->addWidget(m_reverse);
  row->addWidget(m_loop);
  const auto share = [&](const QString& name, double usual, std::function<double&(SliceLoop&)> v) {
    keySlide(
        page, QString(), {0, 100, usual, 1, 0}, name,
        [v](const Key& k) {
          SliceLoop copy = k.loop;
          return v(copy) * 100;
        },
        [v](Key& k, double value) { v(k.loop) = value / 100; })
        ->setAccessibleName(name);
  };
  share(
      tr("% from"), 25, [](SliceLoop & l) -> auto& { return l.from; });
  share(
      tr("% to"), 100, [](SliceLoop & l) -> auto& { return l.to; });
  keySlide(
      page, QString(), {1, 500, 10, 1, 0}, tr("ms across"),
      [](const Key& k) { return k.loop.crossfade.value; },
      [](Key& k, double v) { k.loop.crossfade = Milliseconds(v); })
      ->setAccessibleName(tr("Crossfade"));
  for (auto setting = m_settings.end() - 3; setting != m_settings.end(); ++setting)
    setting->slide->setFixedWidth(px(96));
  row->addWidget(m_held);
  row->addWidget(m_choke);
  m_school = new Combo(tr("School of the slice"),
                       tr("How this slice comes to the beat, whatever its source does"), page);
  m_school->addItems({tr("as its source"), tr("repitched"), tr("stretched"), tr("re-spaced")});
  m_row = new Combo(tr("Row of the deck"), tr("Its role, and which keys play it"), page);
  m_row->addItems({tr("Cuts"), tr("Air"), tr("Body"), tr("Floor")});
  row->addWidget(m_school);
  row->addWidget(m_row);
  connect(m_reverse, &QAbstractButton::clicked, this, &SlicePanel::reverse);
  connect(m_loop, &QAbstractButton::clicked, this,
          [this](bool on) { changeKeys(tr("Loop"), [on](Key& k) { k.loop.on = on; }); });
  connect(m_held, &QAbstractButton::clicked, this,
          [this](bool on) { changeKeys(tr("Held or to its end"), [on](Key& k) { k.gate = on; }); });
  connect(m_choke, &QAbstractButton::clicked, this, [this] {
    const auto keys = m_session.chosenKeys();
    if (keys.empty()) return;
    const int next = (findKey(m_session.project(), keys.front())->choke + 1) % 9;
    changeKeys(tr("Choke"), [next](Key& k) { k.choke = next; });
  });
  connect(m_school, &QComboBox::activated, this, [this](int i) {
    changeKeys(tr("School of a slice"),
               [i](Key& k) { k.method = i == 0 ? std::nullopt : std::optional(FitMethod(i - 1)); });
  });
  connect(m_row, &QComboBox::activated, this, [this](int i) {
    Project next = m_session.project();
    bool full = false;
    for (Id key : m_session.chosenKeys()) {
      next = withRole(std::move(next), key, Row(i));
      full = full || findKey(next, key)->row != Row(i);
    }
    m_session.edit(tr("Move to another row"), std::move(next));
    if (full) emit m_session.message(tr("That row has no free key left."), true);
    refresh();
  });
  return page;
}

void SlicePanel::elide() {
  m_about->setToolTip(m_where);
  m_about->setText(
      m_about->fontMetrics().elidedText(m_where, Qt::ElideRight, m_about->width() - px(2)));
}

void SlicePanel::resizeEvent(QResizeEvent*) { QTimer::singleShot(0, this, &SlicePanel::elide); }

void SlicePanel::showLeaf(Leaf leaf) {
  m_leaf = leaf;
  for (std::size_t i = 0; i < kLeaves; ++i) {
    m_leafChips[i]->setChecked(std::size_t(leaf) == i);
    m_pages[i]->setVisible(std::size_t(leaf) == i);
  }
}

void SlicePanel::changeKeys(const QString& name, const std::function<void(Key&)>& change) {
  Project next = m_session.project();
  for (Id key : m_session.chosenKeys()) next = withKeyChanged(std::move(next), key, change);
  m_session.edit(name, std::move(next), name);
  refresh();
}

/// The last treatment of each, put there or taken away.
void SlicePanel::reverse() {
  const auto keys = m_session.chosenKeys();
  if (keys.empty()) return;
  const auto reversed = [](const Key& k) {
    return !k.treatments.empty() && k.treatments.back().kind == TreatmentKind::Reverse;
  };
  const bool on = !reversed(*findKey(m_session.project(), keys.front()));
  changeKeys(tr("Reverse"), [&](Key& k) {
    if (on && !reversed(k))
      k.treatments.push_back(treatment(TreatmentKind::Reverse));
    else if (!on && reversed(k))
      k.treatments.pop_back();
  });
  m_session.settle();
}

void SlicePanel::editName() {
  m_name->setFocus();
  m_name->selectAll();
}

void SlicePanel::offerTreatments() {
  showLeaf(Leaf::Treat);
  m_treat->offerKinds();
}

void SlicePanel::matchLevels() {
  showLeaf(Leaf::Levels);
  m_levels->matchToMiddle();
}

void SlicePanel::writeSlices() {
  showLeaf(Leaf::Out);
  m_out->askWhere();
}

void SlicePanel::copySettings() {
  for (Id id : m_session.chosenKeys())
    if (const Key* key = findKey(m_session.project(), id);
        key->sound.cut == m_session.selection().cut)
      m_copied = *key;
  if (m_copied)
    emit m_session.message(tr("Settings of %1 copied. Choose slices and press Ctrl+Shift+V.")
                               .arg(QString::fromStdString(nameOf(m_session.project(), *m_copied))),
                           false);
}

void SlicePanel::pasteSettings() {
  if (!m_copied) {
    emit m_session.message(tr("No settings were copied yet. Press Ctrl+Shift+C on a slice."), true);
    return;
  }
  const auto keys = m_session.chosenKeys();
  m_session.edit(
      tr("Lay settings on %1").arg(counted(qint64(keys.size()), tr("slice"), tr("slices"))),
      withSettingsOf(m_session.project(), *m_copied, keys));
}

void SlicePanel::refresh() {
  const Project& project = m_session.project();
  const Source* s = findSource(project, m_session.selection().source);
  const Cut* cut = s ? findCut(*s, m_session.selection().cut) : nullptr;
  const Key* key = nullptr;
  const auto keys = m_session.chosenKeys();
  for (Id id : keys)
    if (const Key* k = findKey(project, id); cut && k->sound.cut == cut->id) key = k;
  for (const auto& setting : m_settings) {
    setting.slide->setEnabled(key && cut);
    if (key && cut) setting.slide->setValue(setting.get(*key, *cut));
  }
  for (QWidget* w :
       std::initializer_list<QWidget*>{m_reverse, m_loop, m_held, m_choke, m_school, m_row, m_name})
    w->setEnabled(key);
  m_reverse->setChecked(key && !key->treatments.empty() &&
                        key->treatments.back().kind == TreatmentKind::Reverse);
  m_loop->setChecked(key && key->loop.on);
  m_held->setChecked(key && (key->gate || key->loop.on));
  m_choke->setText(key && key->choke != 0 ? tr("Choke: %1").arg(QChar('a' + key->choke - 1))
                                          : tr("Choke: none"));
  m_school->setCurrentIndex(key && key->method ? int(*key->method) + 1 : 0);
  m_row->setCurrentIndex(key ? int(key->row) : 0);
  refreshTitle(s, cut, key, keys.size());
}

void SlicePanel::refreshTitle(const Source* s, const Cut* cut, const Key* key, std::size_t chosen) {
  if (!m_name->hasFocus())
    m_name->setText(key ? QString::fromStdString(nameOf(m_session.project(), *key))
                    : s && s->cuts.empty() ? tr("Not cut yet")
                                           : tr("No slice chosen"));
  QString where = s && s->cuts.empty()
                      ? tr("choose a way above: hits for live playing, beats for an even loop")
                      : tr("click one, or use the arrow keys");
  if (cut) {
    const double rate = s->sound->rate().value;
    where = tr("%1 to %2 s · %3 ms")
                .arg(double(cut->start.value) / rate, 0, 'f', 3)
                .arg(double(cut->end.value) / rate, 0, 'f', 3)
                .arg(double((cut->end - cut->start).value) / rate * 1000, 0, 'f', 0);
    if (key && key->row == Row::Cuts)
      where += tr(" · key %1, page %2").arg(key->column + 1).arg(key->page + 1);
    if (chosen > 1) where = tr("and %1 more").arg(chosen - 1) + QStringLiteral(" · ") + where;
  }
  m_where = where;
  elide();
  theme::style(m_about, QStringLiteral("color:%1").arg(theme::colours().quiet.name()));
}

} // namespace tuvvo
