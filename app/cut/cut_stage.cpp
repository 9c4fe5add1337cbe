#include "cut/cut_stage.h"

#include "crate/source_card.h"
#include "cut/cut_ways.h"
#include "cut/drift_line.h"
#include "cut/fit_panel.h"
#include "cut/loop_menu.h"
#include "cut/slicing.h"
#include "cut/straighten_row.h"
#include "cut/tap_cuts.h"
#include "cut/wave_view.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/combo.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

CutStage::CutStage(Session& session, QWidget* parent) : StageView(session, parent) {
  m_title = new QLabel(this);
  m_title->setFont(theme::font(theme::Type::Title));
  m_about = new QLabel(this);
  m_about->setFont(theme::font(theme::Type::Small));
  m_about->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  m_wave = new WaveView(session, this);
  m_fit = new FitPanel(session, this);
  setFocusProxy(m_wave);
  auto* top = new QHBoxLayout;
  top->setSpacing(px(6));
  top->addWidget(m_title);
  top->addWidget(m_about, 1);
  m_showLineUp = new Chip(tr("Line up"), tr("Straightening and the drift line"), this);
  m_showSlice = new Chip(tr("Slice"), tr("The chosen slice"), this);
  for (Chip* chip : {m_showLineUp, m_showSlice}) {
    chip->setCheckable(true);
    top->addWidget(chip);
    connect(chip, &QAbstractButton::clicked, this, [this, chip] {
      m_showLineUp->setChecked(chip == m_showLineUp);
      m_showSlice->setChecked(chip == m_showSlice);
      arrange();
    });
  }
  m_showSlice->setChecked(true);
  m_ways = new CutWays(this);
  connect(m_ways, &CutWays::wanted, this, &CutStage::recut);
  m_taps = new TapCuts(session, this);

  auto* left = new QVBoxLayout;
  left->setSpacing(px(8));
  left->addLayout(top);
  left->addWidget(m_ways);
  left->addWidget(m_wave, 1);
  left->addWidget(m_lineUp = makeLineUp());
  left->addWidget(m_slice = makeSlicePanel());
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(px(20), px(12), px(12), px(10));
  row->setSpacing(px(14));
  row->addLayout(left, 1);
  row->addWidget(m_fit);
  addCommands();
  for (auto signal : {&Session::changed, &Session::selectionChanged})
    connect(&session, signal, this, &CutStage::refresh);
  refresh();
}

bool CutStage::showLeaf(const QString& name) {
  const QString wanted = name.section(QLatin1Char('/'), 0, 0);
  for (const auto& source : m_session.project().sources) {
    if (source->name != wanted.toStdString()) continue;
    m_session.selectSource(source->id);
    if (!source->cuts.empty())
      m_session.selectCut(source->id, source->cuts[source->cuts.size() / 3].id);
    if (name.endsWith(QLatin1String("/straight")))
      m_session.edit(tr("Straighten"),
                     withSourceChanged(m_session.project(), source->id, [](Source& s) {
                       s.shape.method = FitMethod::Stretch;
                       s.shape.straighten = 0.8;
                     }));
    return true;
  }
  return false;
}

QWidget* CutStage::makeLineUp() {
  auto* panel = new QWidget(this);
  auto* column = new QVBoxLayout(panel);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(6));
  column->addWidget(new StraightenRow(m_session, panel));
  column->addWidget(new DriftLine(m_session, *m_wave, panel));
  return panel;
}

/// A low window keeps the waveform, and shows either what lines it up or the slice.
void CutStage::arrange() {
  const bool low = height() < px(500);
  m_showLineUp->setVisible(low);
  m_showSlice->setVisible(low);
  m_lineUp->setVisible(!low || m_showLineUp->isChecked());
  m_slice->setVisible(!low || m_showSlice->isChecked());
}

QWidget* CutStage::makeSlicePanel() {
  auto* panel = new QWidget(this);
  m_sliceTitle = new QLabel(panel);
  m_sliceTitle->setFont(theme::font(theme::Type::Strong));
  m_sliceAbout = new QLabel(panel);
  m_sliceAbout->setFont(theme::font(theme::Type::Small));
  m_sliceAbout->setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Preferred);
  auto* add = new Chip(
      tr("Cut here"), tr("Cut the chosen slice in its middle (Insert); double-click cuts anywhere"),
      panel);
  auto* remove = new Chip(tr("Remove"), tr("Remove the chosen cut (Delete)"), panel);
  auto* downbeat = new Chip(tr("Downbeat"),
                            tr("The chosen slice begins on the first downbeat (Ctrl+Home)"), panel);
  for (const auto& [chip, text] : {std::pair{add, tr("Cut in the middle of the slice")},
                                   {remove, tr("Remove the cut")},
                                   {downbeat, tr("First downbeat at this slice")}})
    connect(chip, &QAbstractButton::clicked, this, [this, text = text] {
      for (QAction* action : actions())
        if (action->text() == text) action->trigger();
    });
  m_level = new Slide(tr("Level"), {-60, 12, 0, 0.1, 1}, tr("dB"), panel);
  m_pan = new Slide(tr("Pan"), {-100, 100, 0, 1, 0}, QString(), panel);
  m_tune = new Slide(tr("Repitch"), {-24, 24, 0, 1, 0}, tr("st"), panel);
  m_fine = new Slide(tr("Fine"), {-100, 100, 0, 1, 0}, tr("ct"), panel);
  m_fadeIn = new Slide(tr("Fade in"), {0, 50, 1, 0.5, 1}, tr("ms"), panel);
  m_fadeOut = new Slide(tr("Fade out"), {0, 50, 4, 0.5, 1}, tr("ms"), panel);
  auto* heading = new QHBoxLayout;
  heading->setSpacing(px(8));
  heading->addWidget(m_sliceTitle);
  heading->addWidget(m_sliceAbout, 1);
  heading->addWidget(add);
  heading->addWidget(downbeat);
  heading->addWidget(remove);
  auto* slides = new QHBoxLayout;
  slides->setSpacing(px(10));
  for (Slide* slide : {m_level, m_pan, m_tune, m_fine, m_fadeIn, m_fadeOut})
    slides->addWidget(slide);
  auto* column = new QVBoxLayout(panel);
  column->setContentsMargins(px(2), px(2), px(2), 0);
  column->setSpacing(px(4));
  column->addLayout(heading);
  column->addLayout(slides);
  const auto onKey = [this](Slide* slide, const QString& name, auto set) {
    connect(slide, &Slide::changed, this, [this, name, set](double v, bool settled) {
      changeKey(name, [v, set](Key& key) { set(key, v); });
      if (settled) m_session.settle();
    });
  };
  onKey(m_level, tr("Slice level"), [](Key& k, double v) { k.level = Decibels(v); });
  onKey(m_pan, tr("Slice pan"), [](Key& k, double v) { k.pan = v / 100; });
  onKey(m_tune, tr("Slice repitch"), [](Key& k, double v) { k.tune = Semitones(v); });
  onKey(m_fine, tr("Slice fine tune"), [](Key& k, double v) { k.fine = Cents(v); });
  connect(m_fadeIn, &Slide::changed, this, [this](double v, bool) {
    changeCut(tr("Fade in"), [v](Cut& cut) { cut.fadeIn = Milliseconds(v); });
  });
  connect(m_fadeOut, &Slide::changed, this, [this](double v, bool) {
    changeCut(tr("Fade out"), [v](Cut& cut) { cut.fadeOut = Milliseconds(v); });
  });
  return panel;
}

void CutStage::addCommands() {
  for (int i = 0; i < int(CutWays::kWays); ++i)
    addCommand(CutWays::commandText(CutWay(i)), QKeySequence(Qt::CTRL | (Qt::Key_1 + i)),
               [this, i] { recut([i](CutSettings& s) { s.way = CutWay(i); }); });
  const auto chosen = [this]() -> std::pair<const Source*, const Cut*> {
    const Source* s = findSource(m_session.project(), m_session.selection().source);
    return {s, s ? findCut(*s, m_session.selection().cut) : nullptr};
  };
  addCommand(tr("Cut in the middle of the slice"), QKeySequence(Qt::Key_Insert), [this, chosen] {
    const auto [s, cut] = chosen();
    if (!s || !s->sound) return;
    Frames at(m_wave->firstFrame() + m_wave->framesShown() / 2);
    if (cut) at = Frames((cut->start.value + cut->end.value) / 2);
    m_session.edit(tr("Add a cut"), withCuts(m_session.project(), s->id, s->cutting,
                                             withCutAdded(*s, snapped(*s, at))));
  });
  addCommand(tr("Remove the cut"), QKeySequence(Qt::Key_Delete), [this, chosen] {
    const auto [s, cut] = chosen();
    if (s && cut)
      m_session.edit(tr("Remove a cut"),
                     withCuts(m_session.project(), s->id, s->cutting, withCutRemoved(*s, cut->id)));
  });
  addCommand(
      tr("First downbeat at this slice"), QKeySequence(Qt::CTRL | Qt::Key_Home), [this, chosen] {
        const auto [s, cut] = chosen();
        if (s && cut) {
          const Seconds at = toSeconds(cut->start, s->sound->rate());
          m_session.edit(tr("Move the first downbeat"),
                         withSourceChanged(m_session.project(), s->id,
                                           [at](Source& x) { x.corrections.downbeat = at; }));
        }
      });
  addCommand(tr("Say what the slice's hit is"), QKeySequence(Qt::CTRL | Qt::Key_J),
             [this] { m_wave->nameChosenHit(); });
  auto* along = addCommand(tr("Tap cuts along"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_B),
                           [this] { m_taps->tapping() ? m_taps->finish() : m_taps->start(); });
  auto* tap = addCommand(tr("Tap a cut"), QKeySequence(Qt::Key_Return), [this] { m_taps->tap(); });
  tap->setEnabled(false); // Enter is other controls' while nothing is tapped
  auto* loops = addCommand(tr("Find loops"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_O),
                           [this] { offerLoops(m_session, m_ways->loopsChip()); });
  connect(m_ways, &CutWays::tapAlong, along, &QAction::trigger);
  connect(m_ways, &CutWays::tapped, tap, &QAction::trigger);
  connect(m_ways, &CutWays::loopsWanted, loops, &QAction::trigger);
  connect(m_taps, &TapCuts::moved, this, [this, tap] {
    tap->setEnabled(m_taps->tapping());
    m_ways->setTapping(m_taps->tapping());
    m_wave->showPlace(m_taps->tapping() ? m_taps->place() : Seconds(-1));
  });
  addCommand(tr("Next slice"), {}, [this] { m_wave->stepCut(1); });
  addCommand(tr("Slice before"), {}, [this] { m_wave->stepCut(-1); });
  addCommand(tr("Show the whole source"), QKeySequence(Qt::CTRL | Qt::Key_0),
             [this] { m_wave->showAll(); });
  addCommand(tr("Match the levels of all slices"), {}, [this, chosen] {
    if (const Source* s = chosen().first) {
      LoudnessCache loudness;
      m_session.edit(tr("Match levels"), withLevelsMatched(m_session.project(), slicesOf(m_session.project(), s->id), {}, loudness));
    }
  });
}

void CutStage::recut(const std::function<void(CutSettings&)>& change, const QString& merge) {
  const Source* s = findSource(m_session.project(), m_session.selection().source);
  if (!s || !s->sound) return;
  CutSettings settings = s->cutting;
  change(settings);
  if (!canCut(*s, settings.way)) {
    const QString why =
        settings.way == CutWay::Sections ? tr("%1 has no sections that differ.")
        : settings.way == CutWay::Chords
            ? tr("No chords were heard in %1. Cut it by hits.")
            : tr("%1 has no tempo to cut by. Tap one in the crate, or cut by hits.");
    emit m_session.message(why.arg(QString::fromStdString(s->name)), true);
    refresh();
    return;
  }
  m_session.edit(tr("Cut %1").arg(QString::fromStdString(s->name)),
                 withCuts(m_session.project(), s->id, settings, cutSource(*s, settings)), merge);
}

void CutStage::changeKey(const QString& name, const std::function<void(Key&)>& change) {
  const Source* s = findSource(m_session.project(), m_session.selection().source);
  for (const auto& key : m_session.project().keys)
    if (s && key.sound == SoundRef{s->id, m_session.selection().cut} && key.sound.cut != 0) {
      m_session.edit(name, withKeyChanged(m_session.project(), key.id, change), name);
      return;
    }
}

void CutStage::changeCut(const QString& name, const std::function<void(Cut&)>& change) {
  const Id cut = m_session.selection().cut;
  m_session.edit(name,
                 withSourceChanged(m_session.project(), m_session.selection().source,
                                   [&](Source& s) {
                                     for (auto& c : s.cuts)
                                       if (c.id == cut) change(c);
                                   }),
                 name);
}

void CutStage::refresh() {
  const auto& c = theme::colours();
  const Source* s = findSource(m_session.project(), m_session.selection().source);
  m_title->setText(s ? QString::fromStdString(s->name) : tr("Nothing to cut yet"));
  QStringList about;
  if (s) {
    about << tempoText(*s) << keyText(*s)
          << (s->sound ? lengthText(s->sound->duration()) : tr("missing"));
    if (s->heard && s->heard->loop)
      about.prepend(counted(s->heard->loop->bars, tr("bar"), tr("bars")));
  }
  m_about->setText(about.join(QStringLiteral(" · ")));
  m_about->setStyleSheet(QStringLiteral("color:%1; padding-left:6px").arg(c.quiet.name()));
  m_ways->show(s);
  const Cut* cut = s ? findCut(*s, m_session.selection().cut) : nullptr;
  const Key* key = nullptr;
  for (const auto& k : m_session.project().keys)
    if (s && cut && k.sound == SoundRef{s->id, cut->id}) key = &k;
  for (Slide* slide : {m_level, m_pan, m_tune, m_fine}) slide->setEnabled(key);
  for (Slide* slide : {m_fadeIn, m_fadeOut}) slide->setEnabled(cut);
  m_sliceTitle->setText(key ? tr("Slice %1").arg(QString::fromStdString(nameOf(m_session.project(), *key)))
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
    if (key) where += tr(" · key %1, page %2").arg(key->column + 1).arg(key->page + 1);
  }
  m_sliceAbout->setText(where);
  m_sliceAbout->setStyleSheet(QStringLiteral("color:%1").arg(c.quiet.name()));
  if (key) {
    m_level->setValue(key->level.value);
    m_pan->setValue(key->pan * 100);
    m_tune->setValue(key->tune.value);
    m_fine->setValue(key->fine.value);
  }
  if (cut) {
    m_fadeIn->setValue(cut->fadeIn.value);
    m_fadeOut->setValue(cut->fadeOut.value);
  }
}

void CutStage::resizeEvent(QResizeEvent*) { arrange(); }

void CutStage::paintEvent(QPaintEvent*) {
  QPainter p(this);
  p.fillRect(rect(), theme::colours().ground);
}

} // namespace tuvvo
