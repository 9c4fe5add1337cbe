#include "beat/feel_panel.h"

#include "base/convert.h"
#include "beat/grooves.h"
#include "beat/novelty.h"
#include "beat/ribbons_view.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/control_row.h"
#include "widgets/parameter_text.h"
#include "widgets/tick.h"

namespace tuvvo {

using theme::px;

namespace {
constexpr int kFromSource = Qt::UserRole + 1;
} // namespace

FeelPanel::FeelPanel(Panel& host, RibbonsView& ribbons, QWidget* parent)
    : Panel(host, parent), m_ribbons(ribbons) {
  auto* row = ControlRow::in(this);
  using Stays = ControlRow::Stays;
  for (const char* id : {"feel.swing-16ths", "feel.micro-timing", "feel.humanise"})
    row->add(addSlide(id), Stays::Always);
  makeGroove();
  row->add(m_groove, Stays::Always);
  makeQuantise();
  row->add(m_quantise);
  row->add(addSlide("feel.swing-8ths"));
  const auto seldom = [row](QWidget* widget) { row->add(widget, Stays::UnderMore); };
  seldom(m_takes);
  seldom(addSlide("feel.lag"));
  seldom(addSlide("feel.humanise-velocity"));
  m_dice =
      new Button(Sign::Again, tr("Another"), tr("Humanise with other small differences"), this);
  connect(m_dice, &QAbstractButton::clicked, this, [this] {
    changeLane(
        tr("Humanise otherwise"), [](Lane& l) { ++l.feel.seed; }, true);
  });
  seldom(m_dice);
  makeAccent();
  seldom(m_accent);
  seldom(addSlide("feel.accent-depth"));
  seldom(addSlide("feel.groove-timing"));
  seldom(addSlide("feel.groove-accents"));
  makeLength();
  seldom(m_length);
}

void FeelPanel::makeAccent() {
  const Parameter& accent = findFeelParameter("feel.accent")->parameter;
  m_accent = new Combo(nameOf(accent), aboutOf(accent), this);
  m_accent->addItems(wordsOf(accent));
  connect(m_accent, &QComboBox::activated, this, [this](int at) {
    changeLane(
        tr("Accent"),
        [at](Lane& l) {
          l.feel.accent = AccentShape(at);
          if (at > 0 && l.feel.accentDepth == 0) l.feel.accentDepth = 0.3;
        },
        true);
  });
}

Slide* FeelPanel::addSlide(std::string_view id) {
  const FeelParameter& figure = *findFeelParameter(id);
  auto* slide = slideFor(figure.parameter, this);
  slide->setFixedWidth(px(94));
  connect(slide, &Slide::changed, this, [this, &figure](double v, bool settled) {
    changeLane(
        nameOf(figure.parameter), [&](Lane& l) { figure.set(l.feel, v); }, settled);
  });
  m_slides.emplace_back(slide, &figure);
  return slide;
}

void FeelPanel::makeQuantise() {
  m_quantise = addSlide("feel.quantise-strength");
  m_takes = new Tick(tr("Quantise takes"),
                     tr("What is recorded on this part goes to the grid as it is laid"), this);
  connect(m_takes, &QAbstractButton::clicked, this, [this] {
    const double strength = m_quantise->value() > 0 ? m_quantise->value() / 100 : 1;
    edit(tr("Quantise takes"), withPartChanged(project(), m_ribbons.currentPart(), [&](Part& part) {
           part.quantiseStrength = m_takes->isChecked() ? strength : 0;
           if (m_ribbons.grid() > 0) part.perBeat = m_ribbons.grid();
         }));
  });
}

void FeelPanel::makeGroove() {
  m_groove = new Combo(
      tr("Feel"),
      tr("A feel laid over this part: one of this beat, one that ships, or taken from the hits of "
         "a source"),
      this);
  m_groove->setFixedWidth(px(150));
  connect(m_groove, &QComboBox::activated, this, &FeelPanel::chooseGroove);
}

void FeelPanel::makeLength() {
  m_length = new Slide(tr("Own length"), {0, 64, 0, 0.25, 2}, tr("beats"), this);
  m_length->setId(QStringLiteral("lane.length"));
  m_length->setFixedWidth(px(112));
  m_length->setToolTip(tr("After how many beats this part comes round by itself; 0: with the "
                          "pattern"));
  m_length->setFormat(
      [](double v) { return v <= 0 ? tr("the pattern's") : tr("%1 beats").arg(v, 0, 'g', 4); });
  connect(m_length, &Slide::changed, this, [this](double v, bool settled) {
    changeLane(
        tr("Own length"),
        [v](Lane& l) { l.length = Beats(toNearest<std::int64_t>(v * double(kTicksPerBeat))); },
        settled);
  });
}

const Lane* FeelPanel::lane() const {
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  return pattern ? findLane(*pattern, m_ribbons.currentPart()) : nullptr;
}

void FeelPanel::changeLane(const QString& name, const Change& change, bool settled) {
  const Id part = m_ribbons.currentPart();
  edit(name,
       withPatternChanged(project(), selection().pattern,
                          [&](Pattern& p) { change(laneOf(p, part)); }),
       name + QString::number(part));
  if (settled) settle();
}

void FeelPanel::quantiseNow() {
  const PatternPtr pattern = findPattern(project(), selection().pattern);
  if (!pattern) return;
  changeLane(
      tr("Quantise"),
      [&](Lane& l) {
        const double strength = l.feel.quantiseStrength > 0 ? l.feel.quantiseStrength : 1;
        l.feel.quantiseStrength = 0;
        l = quantised(project(), pattern->meter, std::move(l),
                      m_ribbons.grid() > 0 ? m_ribbons.grid() : 4, strength);
      },
      true);
}

/// Feels of this beat first, then those that ship.
void FeelPanel::fillGrooves(const Feel& feel) {
  m_groove->clear();
  m_groove->addItem(tr("no feel"), 0);
  std::set<std::string> own;
  for (const auto& groove : project().grooves) {
    m_groove->addItem(QString::fromStdString(groove.name), int(groove.id));
    if (groove.from.empty()) own.insert(groove.name);
    if (groove.id == feel.groove) m_groove->setCurrentIndex(m_groove->count() - 1);
  }
  const auto& shipped = shippedGrooves();
  for (std::size_t i = 0; i < shipped.size(); ++i)
    if (!own.contains(shipped[i].name))
      m_groove->addItem(QString::fromStdString(shipped[i].name), -1 - int(i));
  for (const auto& source : project().sources) {
    if (source->kit || !source->heard || !gridOf(*source) || source->heard->onsets.size() < 4)
      continue;
    m_groove->addItem(tr("take from %1").arg(QString::fromStdString(source->name)), 0);
    m_groove->setItemData(m_groove->count() - 1, uint(source->id), kFromSource);
  }
}

void FeelPanel::chooseGroove(int index) {
  const int chosen = m_groove->itemData(index).toInt();
  const Id source = Id(m_groove->itemData(index, kFromSource).toUInt());
  Project next = project();
  QString name = tr("Lay a feel on");
  Id groove = chosen > 0 ? Id(chosen) : 0;
  if (chosen < 0)
    next = withGroove(std::move(next), shippedGrooves()[std::size_t(-1 - chosen)], &groove);
  if (const Source* from = findSource(next, source)) {
    const auto taken = grooveOf(*from);
    if (!taken) {
      emit message(QString::fromStdString(taken.error().text()), true);
      refresh();
      return;
    }
    name = tr("Take the feel of %1").arg(QString::fromStdString(from->name));
    next = withGroove(std::move(next), *taken, &groove);
  }
  const Id part = m_ribbons.currentPart();
  edit(name, withPatternChanged(std::move(next), selection().pattern,
                                [&](Pattern& p) { laneOf(p, part).feel.groove = groove; }));
}

void FeelPanel::refresh() {
  const Project& p = project();
  const PatternPtr pattern = findPattern(p, selection().pattern);
  if (!pattern) return;
  const Part* part = findPart(p, m_ribbons.currentPart());
  QString fresh;
  for (const auto& source : p.sources)
    if (const Novelty novelty = noveltyOf(p, *pattern, source->id);
        part && novelty.slices > 1 &&
        std::any_of(p.keys.begin(), p.keys.end(), [&](const Key& key) {
          return key.part == part->id && key.sound.source == source->id && key.sound.cut != 0;
        }))
      fresh = tr("%1 new").arg(novelty.total, 0, 'f', 2);
  m_novelty = fresh;
  const Lane* known = lane();
  const Lane shown = known ? *known : Lane{};
  for (const auto& [slide, figure] : m_slides) slide->setValue(figure->get(shown.feel));
  m_accent->setCurrentIndex(int(shown.feel.accent));
  fillGrooves(shown.feel);
  m_length->setRange({0, inBeats(lengthOf(*pattern)) * 2, 0, 0.25, 2});
  m_length->setValue(inBeats(shown.length));
  m_takes->setChecked(part && part->quantiseStrength > 0);
  setEnabled(part);
}

} // namespace tuvvo
