#include "beat/change_panel.h"

#include "beat/novelty.h"
#include "beat/pattern_edits.h"
#include "beat/ribbons_view.h"
#include "beat/similarity.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/chip.h"
#include "widgets/flow_row.h"
#include "widgets/slide.h"

#include <QLabel>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

ChangePanel::ChangePanel(Panel& host, RibbonsView& ribbons, QWidget* parent)
    : Panel(host, parent), m_ribbons(ribbons) {
  auto* row = new FlowRow(px(6));
  const auto chip = [&](const QString& text, const QString& tip, auto run) {
    auto* made = new Chip(text, tip, this);
    connect(made, &QAbstractButton::clicked, this, run);
    row->addWidget(made);
    return made;
  };
  auto* title = new QLabel(tr("Last bar:"), this);
  title->setFont(theme::font(theme::Type::Strong));
  row->addWidget(title);
  chip(tr("Drop"), tr("Everything rests over its last beat"),
       [this] { changeLastBar(LastBar::Drop); });
  chip(tr("Fill"), tr("Snares gather over its last two beats"),
       [this] { changeLastBar(LastBar::Fill); });
  chip(tr("Roll"), tr("The busiest high part rolls to the bar line"),
       [this] { changeLastBar(LastBar::Roll); });
  chip(tr("Other slices"), tr("Its slices are dealt anew"),
       [this] { changeLastBar(LastBar::OtherSlice); });
  chip(tr("Turn one round"), tr("Its last slice is played backwards"),
       [this] { changeLastBar(LastBar::Reverse); });
  m_throw = chip(tr("Throw again"), tr("The same change by another throw of the dice"), [this] {
    ++m_seed;
    const PatternPtr before = m_before;
    edit(tr("Change the last bar"),
         withPatternChanged(
             project(), before->id,
             [&](Pattern& p) { p = withLastBarChanged(project(), *before, m_way, m_seed); }),
         QStringLiteral("last bar"));
    m_after = projectPtr();
    refresh();
  });
  m_bar = new Slide(tr("Bar"), {1, kMostBars, 1, 1, 0}, QString(), this);
  m_bar->setId(QStringLiteral("change.bar"));
  m_bar->setFixedWidth(px(72));
  m_bar->setToolTip(tr("In which bar the chosen part rests"));
  row->addWidget(m_bar);
  m_drop = chip(QString(), tr("The chosen part rests for that bar"), [this] { dropPart(); });
  m_keep = new Slide(tr("Thin to"), {5, 95, 50, 5, 0}, tr("%"), this);
  m_keep->setId(QStringLiteral("change.thin-to"));
  m_keep->setFixedWidth(px(92));
  m_keep->setToolTip(tr("How many hits stay: those on the beats and the hard ones first"));
  row->addWidget(m_keep);
  chip(tr("Thin for an intro"), tr("A thinner alternative beside this pattern"),
       [this] { thin(); });
  m_figures = new QLabel(this);
  m_figures->setFont(theme::font(theme::Type::Small));
  m_figures->setToolTip(
      tr("How like the bars are to those before them; and how far slices are from "
         "the order, rhythm, pitch and length of their source: 0 as it was, 1 all "
         "new"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(4));
  column->addLayout(row);
  column->addWidget(m_figures);
  column->addStretch(1);
  refresh();
}

PatternPtr ChangePanel::pattern() const { return findPattern(project(), selection().pattern); }

void ChangePanel::changeLastBar(LastBar way) {
  const PatternPtr before = pattern();
  if (!before) return;
  m_way = way;
  m_before = before;
  const Pattern changed = withLastBarChanged(project(), *before, way, m_seed);
  if (changed == *before) {
    emit message(tr("The last bar has nothing that this could change."), true);
    return;
  }
  settle();
  edit(tr("Change the last bar"),
       withPatternChanged(project(), before->id, [&](Pattern& p) { p = changed; }),
       QStringLiteral("last bar"));
  m_after = projectPtr();
  refresh();
}

void ChangePanel::dropPart() {
  const Id part = m_ribbons.currentPart();
  edit(tr("A part rests for a bar"),
       withPatternChanged(project(), selection().pattern, [&](Pattern& p) {
         p = withPartDropped(std::move(p), part, int(m_bar->value()) - 1);
       }));
}

void ChangePanel::thin() {
  const PatternPtr before = pattern();
  if (!before) return;
  Id added = 0;
  Project next = withAlternative(project(), before->id, &added);
  next = withPatternChanged(std::move(next), added, [&](Pattern& p) {
    p = thinned(project(), std::move(p), m_keep->value() / 100, m_seed);
    p.name = before->name + ", thin";
  });
  edit(tr("Thin for an intro"), next);
  selectPattern(added);
}

void ChangePanel::refresh() {
  const Project& p = project();
  const PatternPtr now = pattern();
  const Part* part = findPart(p, m_ribbons.currentPart());
  const bool dice = m_way != LastBar::Drop && m_way != LastBar::Reverse;
  m_throw->setEnabled(dice && m_before && m_after == projectPtr());
  m_drop->setText(part ? tr("Rest %1").arg(QString::fromStdString(part->name)) : tr("Rest"));
  m_drop->setEnabled(part != nullptr);
  m_drop->updateGeometry();
  if (!now) return;
  m_bar->setRange({1, double(now->bars), double(now->bars), 1, 0});
  QStringList words;
  if (now->bars > 1)
    words << tr("The bars are %1 % like those before them")
                 .arg(meanSimilarity(barsAlike(p, *now)) * 100, 0, 'f', 0);
  for (const auto& source : p.sources)
    if (const Novelty novelty = noveltyOf(p, *now, source->id); novelty.slices > 1)
      words << tr("%1 is %2 new")
                   .arg(QString::fromStdString(source->name))
                   .arg(novelty.total, 0, 'f', 2);
  m_figures->setText(words.join(QStringLiteral(" · ")));
  theme::style(m_figures, QStringLiteral("color:%1").arg(theme::colours().quiet.name()));
}

} // namespace tuvvo
