#include "cut/cut_stage.h"
#include "session/auditions.h"
#include "session/source_service.h"

#include "beat/novelty.h"
#include "cut/cut_modes.h"
#include "cut/drift_line.h"
#include "cut/fit_panel.h"
#include "cut/loop_menu.h"
#include "cut/out_panel.h"
#include "cut/slice_panel.h"
#include "cut/slicing.h"
#include "cut/straighten_row.h"
#include "cut/tap_cuts.h"
#include "cut/wave_view.h"
#include "model/edits.h"
#include "parts/slices_laid_out.h"
#include "parts/source_text.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/empty_place.h"
#include "widgets/stage_head.h"
#include "widgets/tabs.h"
#include "widgets/tall_scroll.h"

#include <QHBoxLayout>
#include <QPainter>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

CutStage::CutStage(Panel& host, const Uses& uses, QWidget* parent)
    : StageView(host, parent), m_sources(uses.sources), m_player(uses.player),
      m_transport(uses.transport), m_auditions(uses.auditions) {
  m_wave = new WaveView(*this, uses.peaks, this);
  m_fit = new FitPanel(*this, this);
  setFocusProxy(m_wave);
  m_head = new StageHead(this);
  m_shown = m_head->addTabs(tr("What a low window shows"));
  m_shown->add(tr("Ways"), tr("Ways to cut"));
  m_shown->add(tr("Drift"), tr("Straightening and the drift line"));
  m_shown->add(tr("Slice"), tr("The chosen slice"));
  m_shown->add(tr("Fit"), tr("How it comes to the beat"));
  m_shown->choose(Slice);
  connect(m_shown, &Tabs::wanted, this, [this](int which) {
    m_shown->choose(which);
    arrange();
  });
  m_head->addStretch();
  m_hear =
      new Button(Sign::Hear, tr("Play in the beat"),
                 tr("Hear it at the beat's tempo and key, in time with it; again to stop"), m_head);
  m_hear->setCheckable(true);
  m_head->add(m_hear);
  connect(m_hear, &QAbstractButton::clicked, this, &CutStage::hear);
  connect(&m_auditions, &Auditions::changed, this, &CutStage::refresh);
  connect(&m_transport, &Transport::tick, this, &CutStage::lightSounding);
  m_next = m_head->addNext(QString(), QString());
  connect(m_next, &QAbstractButton::clicked, this, &CutStage::doNext);
  m_ways = new CutModes(this);
  connect(m_ways, &CutModes::wanted, this, &CutStage::recut);
  m_taps = new TapCuts(*this, uses.auditions);

  auto* left = new QVBoxLayout;
  left->setSpacing(px(8));
  left->addWidget(m_ways);
  left->addWidget(m_wave, 1);
  left->addWidget(m_lineUp = makeLineUp());
  m_slice = new SlicePanel(*this, {uses.sources, uses.loudness, uses.printing}, this);
  left->addWidget(m_sliceArea = new TallScroll(m_slice, px(80), this));
  for (const auto& [tab, part] : std::initializer_list<std::pair<int, QWidget*>>{
           {Ways, m_ways}, {LineUp, m_lineUp}, {Slice, m_sliceArea}, {Fit, m_fit}})
    m_shown->setShows(tab, part);
  connect(m_ways, &CutModes::commandWanted, this, [this](const QString& text) {
    for (QAction* action : actions())
      if (action->text() == text) action->trigger();
  });
  m_work = new QWidget(this);
  auto* row = new QHBoxLayout;
  row->setSpacing(px(16));
  row->addLayout(left, 1);
  row->addWidget(m_fit);
  auto* work = new QVBoxLayout(m_work);
  work->setContentsMargins(0, 0, 0, 0);
  work->setSpacing(px(8));
  work->addWidget(m_head);
  work->addLayout(row, 1);
  m_empty = new EmptyPlace(this);
  m_empty->say(tr("Nothing to cut yet"),
               tr("A source that you choose in the crate is cut into slices here."));
  connect(m_empty->addWay(Sign::None, tr("Choose a source"), tr("Go to the crate (F1)")),
          &QAbstractButton::clicked, this, [this] { emit goTo(Stage::Crate); });
  auto* whole = new QVBoxLayout(this);
  whole->setContentsMargins(px(20), px(12), px(12), px(12));
  whole->addWidget(m_work);
  whole->addWidget(m_empty);
  addCommands();
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &CutStage::refresh);
  refresh();
}

bool CutStage::showPanel(const QString& name) {
  const QString wanted = name.section(QLatin1Char('/'), 0, 0);
  for (const auto& source : project().sources) {
    if (source->name != wanted.toStdString()) continue;
    selectSource(source->id);
    if (!source->cuts.empty()) selectCut(source->id, source->cuts[source->cuts.size() / 3].id);
    if (name.endsWith(QLatin1String("/straight")))
      edit(tr("Straighten"), withSourceChanged(project(), source->id, [](Source& s) {
             s.shape.method = FitMethod::Stretch;
             s.shape.straighten = 0.8;
           }));
    if (name.endsWith(QLatin1String("/treat"))) // a slice that has some, if one has
      for (const auto& key : project().keys)
        if (key.sound.source == source->id && key.sound.cut != 0 && isTreated(key)) {
          selectCut(source->id, key.sound.cut);
          break;
        }
    const std::array panels{"sound", "edges", "playing", "treat", "match", "out"};
    for (std::size_t i = 0; i < panels.size(); ++i)
      if (name.endsWith(QLatin1Char('/') + QLatin1String(panels[i])))
        m_slice->showPanel(SlicePanel::Page(i));
    return true;
  }
  return false;
}

QWidget* CutStage::makeLineUp() {
  auto* panel = new QWidget(this);
  auto* column = new QVBoxLayout(panel);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(6));
  column->addWidget(m_straighten = new StraightenRow(*this, m_transport, m_player, panel));
  column->addWidget(new DriftLine(*this, *m_wave, panel));
  return panel;
}

/// A low window keeps the waveform, and shows either what lines it up or the slice; in a very low
/// one the ways to cut take their turn with them.
void CutStage::arrange() {
  const bool low = height() < px(500), veryLow = height() < px(420);
  const bool narrow = low && width() < px(680);
  if ((!veryLow && m_shown->chosen() == Ways) || (!narrow && m_shown->chosen() == Fit))
    m_shown->choose(Slice);
  m_shown->setVisible(low);
  m_shown->tab(Ways)->setVisible(veryLow);
  m_shown->tab(Fit)->setVisible(narrow);
  m_fit->setVisible(!narrow || m_shown->chosen() == Fit);
  m_ways->setVisible(!veryLow || m_shown->chosen() == Ways);
  m_lineUp->setVisible(!low || m_shown->chosen() == LineUp);
  m_sliceArea->setVisible(!low || m_shown->chosen() == Slice);
}

void CutStage::addCommands() {
  for (int i = 0; i < int(CutModes::kWays); ++i)
    addCommand(CutModes::commandText(CutMode(i)), QKeySequence(Qt::CTRL | (Qt::Key_1 + i)),
               [this, i] { recut([i](CutSettings& s) { s.mode = CutMode(i); }); });
  const auto chosen = [this]() -> std::pair<const Source*, const Cut*> {
    const Source* s = findSource(project(), selection().source);
    return {s, s ? findCut(*s, selection().cut) : nullptr};
  };
  addCommand(tr("Cut in the middle of the slice"), QKeySequence(Qt::Key_Insert), [this, chosen] {
    const auto [s, cut] = chosen();
    if (!s || !s->sound) return;
    Frames at(m_wave->firstFrame() + m_wave->framesShown() / 2);
    if (cut) at = Frames((cut->start.value + cut->end.value) / 2);
    edit(tr("Add a cut"),
         withCuts(project(), s->id, s->cutting, withCutAdded(*s, snapped(*s, at))));
  });
  addCommand(tr("Remove the cut"), QKeySequence(Qt::Key_Delete), [this, chosen] {
    const auto [s, cut] = chosen();
    if (s && cut)
      edit(tr("Remove a cut"), withCuts(project(), s->id, s->cutting, withCutRemoved(*s, cut->id)));
  });
  addCommand(
      tr("First downbeat at this slice"), QKeySequence(Qt::CTRL | Qt::Key_Home), [this, chosen] {
        const auto [s, cut] = chosen();
        if (s && cut) {
          const Seconds at = toSeconds(cut->start, s->sound->rate());
          edit(tr("Move the first downbeat"), withSourceChanged(project(), s->id, [at](Source& x) {
                 x.corrections.downbeat = at;
               }));
        }
      });
  addCommand(tr("Say what the slice's hit is"), QKeySequence(Qt::CTRL | Qt::Key_J),
             [this] { m_wave->nameChosenHit(); });
  addTapCommands();
  addCommand(tr("Next slice"), {}, [this] { m_wave->stepCut(1); });
  addCommand(tr("Slice before"), {}, [this] { m_wave->stepCut(-1); });
  addCommand(tr("Show the whole source"), QKeySequence(Qt::CTRL | Qt::Key_0),
             [this] { m_wave->showAll(); });
  addSliceCommands();
}

void CutStage::addTapCommands() {
  auto* along = addCommand(tr("Tap cuts along"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_B),
                           [this] { m_taps->tapping() ? m_taps->finish() : m_taps->start(); });
  auto* tap = addCommand(tr("Tap a cut"), QKeySequence(Qt::Key_Return), [this] { m_taps->tap(); });
  tap->setEnabled(false); // Enter is other controls' while nothing is tapped
  auto* loops = addCommand(tr("Find loops"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_O),
                           [this] { offerLoops(*this, m_ways->loopsButton()); });
  connect(m_ways, &CutModes::tapAlong, along, &QAction::trigger);
  connect(m_ways, &CutModes::tapped, tap, &QAction::trigger);
  connect(m_ways, &CutModes::loopsWanted, loops, &QAction::trigger);
  connect(m_taps, &TapCuts::moved, this, [this, tap] {
    tap->setEnabled(m_taps->tapping());
    m_ways->setTapping(m_taps->tapping());
    m_wave->showPlace(m_taps->tapping() ? m_taps->place() : Seconds(-1));
  });
}

void CutStage::lightSounding() {
  if (!isVisible()) return;
  std::map<Id, float> levels;
  for (const auto& key : project().keys)
    if (key.sound.cut != 0 && key.sound.source == selection().source)
      if (const float level = std::min(1.0f, m_player.levelOf(key.id) * 1.5f); level > 0.03f)
        levels[key.sound.cut] = std::max(levels[key.sound.cut], level);
  m_wave->showSounding(std::move(levels));
}

void CutStage::addSliceCommands() {
  const auto onSlices = [this](const QString& text, const QKeySequence& keys,
                               std::function<void()> run) {
    addCommand(text, keys, [this, run = std::move(run)] {
      if (chosenKeys().empty())
        emit message(tr("Choose a slice first: click one, or use the arrow keys."), true);
      else
        run();
    });
  };
  const auto ctrlShift = [](Qt::Key key) { return QKeySequence(Qt::CTRL | Qt::SHIFT | key); };
  addCommand(tr("Choose all slices"), QKeySequence::SelectAll,
             [this] { select(withAllCuts(selection(), project())); });
  onSlices(tr("Name the slice"), ctrlShift(Qt::Key_E), [this] { m_slice->editName(); });
  onSlices(tr("Copy the slice's settings"), ctrlShift(Qt::Key_C),
           [this] { m_slice->copySettings(); });
  onSlices(tr("Lay the settings on the chosen slices"), ctrlShift(Qt::Key_V),
           [this] { m_slice->pasteSettings(); });
  onSlices(tr("Reverse the slice"), ctrlShift(Qt::Key_R), [this] { m_slice->reverse(); });
  onSlices(tr("Bounce in place"), ctrlShift(Qt::Key_N),
           [this] { m_sources.bounceInPlace(chosenKeys()); });
  addCommand(tr("Treat"), ctrlShift(Qt::Key_T), [this] { m_slice->offerTreatments(); });
  addCommand(tr("Match the levels of slices"), ctrlShift(Qt::Key_G),
             [this] { m_slice->matchLevels(); });
  addCommand(tr("Write slices"), ctrlShift(Qt::Key_X), [this] { m_slice->writeSlices(); });
  addCommand(tr("Hear the slices in time"), ctrlShift(Qt::Key_Return),
             [this] { m_straighten->playInTime(); });
  addCommand(tr("Reorder the slices in this pattern"), {}, [this] {
    edit(tr("Reorder slices"),
         withOrderChanged(project(), selection().pattern, selection().source, ++m_orders));
  });
}

void CutStage::recut(const std::function<void(CutSettings&)>& change, const QString& merge) {
  const Source* s = findSource(project(), selection().source);
  if (!s || !s->sound) return;
  CutSettings settings = s->cutting;
  change(settings);
  if (!canCut(*s, settings.mode)) {
    const QString why =
        settings.mode == CutMode::Sections ? tr("%1 has no sections that differ.")
        : settings.mode == CutMode::Chords
            ? tr("No chords were heard in %1. Cut it by hits.")
            : tr("%1 has no tempo to cut by. Tap one in the crate, or cut by hits.");
    emit message(why.arg(QString::fromStdString(s->name)), true);
    refresh();
    return;
  }
  edit(tr("Cut %1").arg(QString::fromStdString(s->name)),
       withCuts(project(), s->id, settings, cutSource(*s, settings)), merge);
}

void CutStage::refresh() {
  const Source* s = findSource(project(), selection().source);
  m_work->setVisible(s);
  m_empty->setVisible(!s);
  QStringList about;
  if (s) {
    if (s->heard && s->heard->loop) about << counted(s->heard->loop->bars, tr("bar"), tr("bars"));
    about << tempoText(*s) << keyText(*s)
          << (s->sound ? lengthText(s->sound->duration()) : tr("missing"));
  }
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  if (s && pattern)
    if (const Novelty novelty = noveltyOf(project(), *pattern, s->id); novelty.slices > 1)
      about << tr("%1 new in %2")
                   .arg(novelty.total, 0, 'f', 2)
                   .arg(QString::fromStdString(pattern->name));
  m_head->say(s ? QString::fromStdString(s->name) : QString(), about.join(QStringLiteral(" · ")));
  m_hear->setEnabled(s && s->sound);
  m_hear->setChecked(s && m_auditions.hears(*s));
  m_ways->show(s);
  refreshNext(s);
}

void CutStage::refreshNext(const Source* s) {
  const bool cut = s && !s->cuts.empty();
  const CutMode way = s ? usualMode(*s) : CutMode::Hits;
  m_next->setSign(cut ? Sign::Pin : Sign::Cut);
  if (cut)
    m_next->setSaid(tr("Into the beat"), tr("Go on with its slices in the beat (F4); where none is "
                                            "played yet, all of them in order"));
  else
    m_next->setSaid(CutModes::commandText(way),
                    way == CutMode::Beats
                        ? tr("It is an even loop: its beats are where they should be")
                        : tr("It was played freely: its hits say where to cut"));
  m_next->setEnabled(s && s->sound);
}

void CutStage::doNext() {
  const Source* s = findSource(project(), selection().source);
  if (!s) return;
  if (!s->cuts.empty()) {
    layOutOnce(s->id);
    return emit goTo(Stage::Beat);
  }
  recut([way = usualMode(*s)](CutSettings& settings) { settings.mode = way; });
}

/// Where no pattern plays a slice of it yet: all of them in order, in a pattern of their own.
void CutStage::layOutOnce(Id source) {
  const auto plays = [&](const Hit& hit) {
    const Key* key = findKey(project(), hit.key);
    return key && key->sound.source == source && key->sound.cut != 0;
  };
  for (const auto& pattern : project().patterns)
    for (const auto& lane : pattern->lanes)
      if (std::any_of(lane.hits.begin(), lane.hits.end(), plays)) return;
  laySlicesOut(*this, source);
}

void CutStage::hear() {
  for (const auto& source : project().sources)
    if (source->id == selection().source) m_auditions.toggle(source);
}

void CutStage::resizeEvent(QResizeEvent*) { arrange(); }

void CutStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
