#include "cut/cut_modes.h"

#include "cut/slicing.h"
#include "widgets/button.h"
#include "widgets/label.h"
#include "widgets/segments.h"
#include "widgets/tick.h"

namespace tuvvo {

using theme::px;

namespace {

constexpr std::array kUsual{CutMode::Hits, CutMode::Beats, CutMode::Bars, CutMode::Hand};
constexpr std::array kSeldom{CutMode::Equal, CutMode::Sections, CutMode::Chords};

template <std::size_t size> int placeIn(const std::array<CutMode, size>& ways, CutMode way) {
  const auto at = std::find(ways.begin(), ways.end(), way);
  return at == ways.end() ? -1 : int(at - ways.begin());
}

} // namespace

CutModes::CutModes(QWidget* parent) : ControlRow(parent) {
  const std::array<QString, kWays> names{tr("Hits"),     tr("Beats"),  tr("Bars"), tr("Equal"),
                                         tr("Sections"), tr("Chords"), tr("Hand")};
  const std::array<QString, kWays> tips{
      tr("Cut at every hit; right where the playing is live (Ctrl+1)"),
      tr("Cut by beats and parts of them; right for an even loop (Ctrl+2)"),
      tr("Cut at bar lines (Ctrl+3)"),
      tr("Cut in equal parts; quick (Ctrl+4)"),
      tr("Cut where a new part of the music begins (Ctrl+5)"),
      tr("Cut where the chord changes (Ctrl+6)"),
      tr("Only your own cuts from here on (Ctrl+7)")};
  m_says = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  add(m_says, Stays::Always);
  m_ways = new Segments(tr("Cut by"), Segments::Picks::One, this);
  m_seldom = new Segments(tr("Cut by"), Segments::Picks::One, this);
  for (CutMode way : kUsual) m_ways->add(names[std::size_t(way)], tips[std::size_t(way)]);
  for (CutMode way : kSeldom) m_seldom->add(names[std::size_t(way)], tips[std::size_t(way)]);
  const auto want = [this](CutMode way) {
    emit wanted([way](CutSettings& s) { s.mode = way; }, {});
  };
  connect(m_ways, &Segments::wanted, this, [want](int at) { want(kUsual[std::size_t(at)]); });
  connect(m_seldom, &Segments::wanted, this, [want](int at) { want(kSeldom[std::size_t(at)]); });
  add(m_ways, Stays::Always);
  add(m_seldom, Stays::UnderMore);
  addFigures();
  addClasses();
  addActs();
}

void CutModes::addFigures() {
  m_sensitivity = new Slide(QString(), {0, 100, 50, 5, 0}, tr("% sensitive"), this);
  m_sensitivity->setId(QStringLiteral("cut.sensitivity"));
  m_sensitivity->setAccessibleName(tr("Sensitivity"));
  m_perBeat = new Slide(QString(), {1, 8, 1, 1, 0}, tr("a beat"), this);
  m_perBeat->setId(QStringLiteral("cut.per-beat"));
  m_perBeat->setAccessibleName(tr("Slices a beat"));
  m_perBeat->setToolTip(tr("Slices in a beat: 2 eighths, 4 sixteenths, 3 and 6 triplets"));
  m_barsEach = new Slide(QString(), {1, 16, 1, 1, 0}, tr("bars each"), this);
  m_barsEach->setId(QStringLiteral("cut.bars-each"));
  m_barsEach->setAccessibleName(tr("Bars in a slice"));
  m_parts = new Slide(QString(), {1, 64, 8, 1, 0}, tr("parts"), this);
  m_parts->setId(QStringLiteral("cut.parts"));
  m_parts->setAccessibleName(tr("Parts"));
  for (Slide* slide : {m_sensitivity, m_perBeat, m_barsEach, m_parts}) {
    slide->setFixedWidth(px(118));
    add(slide);
  }
  const auto follow = [this](Slide* slide, const QString& merge, auto set) {
    connect(slide, &Slide::changed, this, [this, merge, set](double v, bool) {
      emit wanted([v, set](CutSettings& s) { set(s, v); }, merge);
    });
  };
  follow(m_sensitivity, QStringLiteral("sensitivity"),
         [](CutSettings& s, double v) { s.sensitivity = v / 100; });
  follow(m_perBeat, QStringLiteral("per beat"),
         [](CutSettings& s, double v) { s.perBeat = int(v); });
  follow(m_barsEach, QStringLiteral("bars each"),
         [](CutSettings& s, double v) { s.barsEach = int(v); });
  follow(m_parts, QStringLiteral("parts"), [](CutSettings& s, double v) { s.parts = int(v); });
}

void CutModes::addClasses() {
  m_classes = new Segments(tr("Cut at"), Segments::Picks::Several, this);
  const std::pair<HitClass, QString> classes[]{{HitClass::Kick, tr("kicks")},
                                               {HitClass::Snare, tr("snares")},
                                               {HitClass::Hat, tr("hats")},
                                               {HitClass::Other, tr("others")}};
  for (const auto& [hit, name] : classes) m_classes->add(hit, name, tr("Cut at %1").arg(name));
  add(m_classes, Stays::UnderMore);
  connect(m_classes, &Segments::wanted, this, [this](int i) {
    const bool on = m_classes->isOn(i);
    emit wanted([i, on](CutSettings& s) { s.classes[std::size_t(i)] = on; }, {});
  });
}

void CutModes::addActs() {
  m_tap = new Button(Sign::Tap, tr("Tap"), tr("A cut here (Enter)"), this);
  add(m_tap, Stays::Always);
  m_tap->hide();
  m_decay =
      new Tick(tr("End at decay"),
               tr("A slice ends where its own sound has died away, not at the next one"), this);
  add(m_decay, Stays::UnderMore);
  m_fromBar = new Tick(tr("From bar 1"),
                       tr("What stands before the first downbeat is set aside, not lost"), this);
  add(m_fromBar, Stays::UnderMore);
  m_along = new Button(
      Sign::Tap, tr("Tap along"),
      tr("The source plays once as it is; tap with Enter where cuts should be (Ctrl+Shift+B)"),
      this);
  m_along->setCheckable(true);
  add(m_along, Stays::UnderMore);
  m_loops =
      new Button(tr("Find loops"), tr("Whole bars that join their own start (Ctrl+Shift+O)"), this);
  m_loops->setOpens(true);
  add(m_loops, Stays::UnderMore);
  const std::tuple<Sign, QString, QString, QString> commands[]{
      {Sign::Cut, tr("Cut here"), tr("Cut in the middle of the slice"),
       tr("Cut the chosen slice in its middle (Insert); double-click cuts anywhere")},
      {Sign::None, tr("Downbeat"), tr("First downbeat at this slice"),
       tr("The chosen slice begins on the first downbeat (Ctrl+Home)")},
      {Sign::Remove, tr("Remove"), tr("Remove the cut"), tr("Remove the chosen cut (Delete)")}};
  for (const auto& [sign, text, command, tip] : commands) {
    auto* button = new Button(sign, text, tip, this);
    if (sign == Sign::Remove) button->setWeight(Button::Weight::Danger);
    add(button, Stays::UnderMore);
    connect(button, &QAbstractButton::clicked, this,
            [this, command = command] { emit commandWanted(command); });
  }
  connect(m_fromBar, &QAbstractButton::clicked, this,
          [this](bool on) { emit wanted([on](CutSettings& s) { s.fromDownbeat = on; }, {}); });
  connect(m_along, &QAbstractButton::clicked, this, &CutModes::tapAlong);
  connect(m_tap, &QAbstractButton::pressed, this, &CutModes::tapped);
  connect(m_loops, &QAbstractButton::clicked, this, &CutModes::loopsWanted);
  connect(m_decay, &QAbstractButton::clicked, this, [this](bool on) {
    emit wanted([on](CutSettings& s) { s.end = on ? CutEnd::Decay : CutEnd::Next; }, {});
  });
}

QWidget* CutModes::loopsButton() const { return m_loops->isVisible() ? m_loops : more(); }

void CutModes::setTapping(bool on) {
  m_along->setChecked(on);
  m_along->setSaid(on ? tr("Done tapping") : tr("Tap along"), m_along->toolTip());
  m_tap->setVisible(on);
}

QString CutModes::commandText(CutMode way) {
  switch (way) {
  case CutMode::Hits:
    return tr("Cut by hits");
  case CutMode::Beats:
    return tr("Cut by beats");
  case CutMode::Bars:
    return tr("Cut by bars");
  case CutMode::Equal:
    return tr("Cut in equal parts");
  case CutMode::Sections:
    return tr("Cut by sections");
  case CutMode::Chords:
    return tr("Cut by chords");
  case CutMode::Hand:
    break;
  }
  return tr("Cut by hand");
}

void CutModes::show(const Source* s) {
  const CutMode way = s ? s->cutting.mode : CutMode::Hits;
  const bool can = s && s->sound;
  const bool cut = can && !s->cuts.empty();
  const int seldom = placeIn(kSeldom, way);
  m_ways->choose(cut ? placeIn(kUsual, way) : -1);
  m_seldom->choose(cut ? seldom : -1);
  // What lies under More is said where it is chosen.
  m_says->setText(cut && seldom >= 0
                      ? tr("Cut by %1, or").arg(m_seldom->segment(seldom)->text().toLower())
                      : tr("Cut by"));
  for (Segments* segments : {m_ways, m_seldom}) segments->setEnabled(can);
  m_sensitivity->setVisible(can && way == CutMode::Hits);
  m_perBeat->setVisible(can && way == CutMode::Beats);
  m_barsEach->setVisible(can && way == CutMode::Bars);
  m_parts->setVisible(can && way == CutMode::Equal);
  m_classes->setVisible(can && way == CutMode::Hits);
  for (int i = 0; i < m_classes->count(); ++i)
    m_classes->setOn(i, s && s->cutting.classes[std::size_t(i)]);
  m_decay->setVisible(can && way != CutMode::Hand);
  m_fromBar->setVisible(can && way != CutMode::Hand && gridOf(*s));
  m_fromBar->setChecked(s && s->cutting.fromDownbeat);
  m_along->setEnabled(can);
  m_loops->setEnabled(can && canCut(*s, CutMode::Beats));
  if (!s) return;
  m_sensitivity->setValue(s->cutting.sensitivity * 100);
  m_perBeat->setValue(s->cutting.perBeat);
  m_barsEach->setValue(s->cutting.barsEach);
  m_parts->setValue(s->cutting.parts);
  m_decay->setChecked(s->cutting.end == CutEnd::Decay);
}

} // namespace tuvvo
