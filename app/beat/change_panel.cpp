#include "beat/change_panel.h"

#include "beat/novelty.h"
#include "beat/pattern_edits.h"
#include "beat/ribbons_view.h"
#include "beat/similarity.h"
#include "model/edits.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/slide.h"

#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

ChangePanel::ChangePanel(Panel& host, RibbonsView& ribbons, QWidget* parent)
    : Panel(host, parent), m_ribbons(ribbons) {
  auto* row = new ControlRow(this);
  using Stays = ControlRow::Stays;
  const auto button = [&](const QString& text, const QString& tip, auto run,
                          Stays stays = Stays::IfThereIsRoom) {
    auto* made = new Button(text, tip, this);
    connect(made, &QAbstractButton::clicked, this, run);
    row->add(made, stays);
    return made;
  };
  auto* title = new Label(theme::Type::Strong, theme::Ink::Text, this);
  title->setText(tr("Last bar"));
  row->add(title, Stays::Always);
  button(tr("Drop"), tr("Everything rests over its last beat"),
         [this] { changeLastBar(LastBar::Drop); });
  button(tr("Fill"), tr("Snares gather over its last two beats"),
         [this] { changeLastBar(LastBar::Fill); });
  button(tr("Roll"), tr("The busiest high part rolls to the bar line"),
         [this] { changeLastBar(LastBar::Roll); });
  button(tr("Other slices"), tr("Its slices are dealt anew"),
         [this] { changeLastBar(LastBar::OtherSlice); });
  button(tr("Reverse one"), tr("Its last slice is played backwards"),
         [this] { changeLastBar(LastBar::Reverse); });
  m_throw = button(tr("Another"), tr("The same change, chosen anew"), [this] {
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
  row->addGap();
  row->add(m_bar);
  m_drop = button(QString(), tr("The chosen part rests for that bar"), [this] { dropPart(); });
  m_keep = new Slide(tr("Thin out to"), {5, 95, 50, 5, 0}, tr("%"), this);
  m_keep->setId(QStringLiteral("change.thin-to"));
  m_keep->setFixedWidth(px(92));
  m_keep->setToolTip(tr("How many hits stay: those on the beats and the hard ones first"));
  row->add(m_keep);
  button(tr("Thin for an intro"), tr("A thinner alternative beside this pattern"),
         [this] { thin(); });
  m_figures = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_figures->setLeast(100);
  m_figures->setToolTip(
      tr("How like the bars are to those before them; and how far slices are from "
         "the order, rhythm, pitch and length of their source: 0 as it was, 1 all "
         "new"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(4));
  column->addWidget(row);
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
  m_drop->setSaid(part ? tr("Rest %1").arg(QString::fromStdString(part->name)) : tr("Rest"),
                  m_drop->toolTip());
  m_drop->setEnabled(part != nullptr);
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
}

} // namespace tuvvo
