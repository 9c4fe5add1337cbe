#include "cut/straighten_row.h"

#include "model/edits.h"
#include "parts/slices_laid_out.h"
#include "shape/shaped.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/segments.h"
#include "widgets/tick.h"

#include <cmath>

namespace tuvvo {

using theme::px;

StraightenRow::StraightenRow(Panel& host, Transport& transport, Player& player, QWidget* parent)
    : Panel(host, parent), m_transport(transport), m_player(player) {
  auto* row = ControlRow::in(this);
  using Stays = ControlRow::Stays;
  auto* says = new Label(theme::Type::Strong, theme::Ink::Text, row);
  says->setText(tr("Drift"));
  row->add(says, Stays::Always);
  m_cost = new Label(theme::Type::Small, theme::Ink::Quiet, row);
  m_cost->setLeast(60);
  row->add(m_cost, Stays::Always);
  m_by = new Segments(tr("Straighten by"), Segments::Picks::One, row);
  m_by->add(tr("bars"), tr("Bar lines come out even; inside a bar nothing changes"));
  m_by->add(tr("beats"), tr("Beats come out even; ghost notes between them keep their place"));
  m_by->add(tr("hits"), tr("Every hit goes to its sixteenth or triplet"));
  row->add(m_by, Stays::UnderMore);
  connect(m_by, &Segments::wanted, this, [this](int by) {
    change(tr("Straighten by something else"), [by](Shape& s) { s.by = StraightenBy(by); });
  });
  m_amount = new Slide(QString(), {0, 100, 0, 5, 0}, tr("% straight"), row);
  m_amount->setId(QStringLiteral("source.straighten"));
  m_amount->setAccessibleName(tr("Straighten"));
  m_amount->setToolTip(tr("0: as it was played; 100: on the grid. What lies between keeps its own "
                          "timing"));
  m_amount->setFixedWidth(px(140));
  row->add(m_amount, Stays::Always);
  m_bake = new Button(QString(), QString(), row);
  m_bake->hide();
  row->add(m_bake, Stays::Always);
  m_bake->hide();
  m_inOrder = new Button(Sign::Hear, tr("Hear in time"),
                         tr("All slices in order in a pattern of their own, against the metronome "
                            "(Ctrl+Shift+Return)"),
                         row);
  m_countIn = new Tick(tr("Count-in bar"), tr("An empty bar in front of it"), row);
  m_material = new Tick(tr("Stretch as drums"),
                        tr("Hits keep their attacks; off: as tones, which keep their phases"), row);
  m_formants = new Tick(tr("Keep the voice"),
                        tr("The colour of a voice stays where it is when its pitch moves"), row);
  row->add(m_inOrder, Stays::UnderMore);
  for (Tick* tick : {m_countIn, m_material, m_formants}) row->add(tick, Stays::UnderMore);
  connect(m_inOrder, &QAbstractButton::clicked, this, &StraightenRow::playInTime);
  connect(m_countIn, &QAbstractButton::clicked, this, [this] {
    // Only what is laid out and looked at already follows at once.
    if (m_laidOut != 0 && m_laidOut == selection().pattern) slicesInOrder();
  });
  connect(m_bake, &QAbstractButton::clicked, this, [this] {
    m_player.baking().working() ? m_player.stopBaking() : m_player.resumeBaking();
  });
  connect(m_amount, &Slide::changed, this, [this](double v, bool settled) {
    change(
        tr("Straighten"), [v](Shape& s) { s.straighten = v / 100; }, QStringLiteral("straighten"));
    if (settled) settle();
  });
  connect(m_material, &QAbstractButton::clicked, this, [this](bool on) {
    change(tr("Stretch as something else"),
           [on](Shape& s) { s.material = on ? Material::Hits : Material::Tones; });
  });
  connect(m_formants, &QAbstractButton::clicked, this,
          [this](bool on) { change(tr("Keep the voice"), [on](Shape& s) { s.formants = on; }); });
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &StraightenRow::refresh);
  connect(&player, &Player::bakeMoved, this, &StraightenRow::refresh);
  refresh();
}

void StraightenRow::change(const QString& name, const std::function<void(Shape&)>& what,
                           const QString& merge) {
  edit(name, withSourceChanged(project(), selection().source, [&](Source& s) { what(s.shape); }),
       merge);
  refresh();
}

Id StraightenRow::slicesInOrder() {
  const Id pattern = laySlicesOut(*this, selection().source, {m_countIn->isChecked()});
  if (pattern != 0) m_laidOut = pattern;
  return pattern;
}

void StraightenRow::playInTime() {
  if (slicesInOrder() == 0) return;
  m_transport.setPlays(Plays::Pattern);
  m_transport.setMetronome(true);
  m_transport.play(0);
}

void StraightenRow::refresh() {
  const Source* s = findSource(project(), selection().source);
  const auto resolved = s ? std::optional<ResolvedSource>(std::in_place, *s) : std::nullopt;
  const bool can = s && s->sound && !resolved->beats().empty();
  m_amount->setEnabled(can);
  m_amount->setValue(s ? s->shape.straighten * 100 : 0);
  m_by->setEnabled(can);
  m_by->choose(s ? int(s->shape.by) : -1);
  const bool stretches = s && s->shape.method == FitMethod::Stretch;
  m_material->setVisible(stretches);
  m_formants->setVisible(stretches);
  QString cost;
  if (s) {
    m_material->setChecked(s->shape.material.value_or(materialOf(*s)) == Material::Hits);
    m_formants->setChecked(s->shape.formants);
    double most = 1;
    for (const auto& part : localStretches(*resolved, project().tempo))
      if (std::abs(std::log(part.ratio)) > std::abs(std::log(most))) most = part.ratio;
    if (std::abs(most - 1) > 0.0005)
      cost = tr("at most %1 % %2")
                 .arg(std::abs(most - 1) * 100, 0, 'f', 1)
                 .arg(most > 1 ? tr("longer") : tr("shorter"));
  }
  const auto baking = m_player.baking();
  const auto say = [&](const QString& text) {
    if (!cost.isEmpty()) cost += QStringLiteral(" · ");
    cost += text;
  };
  if (baking.working())
    say(tr("baking %1 of %2").arg(baking.ready).arg(baking.wanted));
  else if (!baking.trouble.empty())
    say(QString::fromStdString(baking.trouble));
  else if (baking.stopped > 0)
    say(tr("%1 heard as previews").arg(baking.stopped));
  const bool idle = !baking.working();
  m_bake->setSaid(idle ? tr("Bake") : tr("Stop baking"),
                  idle ? tr("Bake what was left undone")
                       : tr("What is not baked yet stays as it is heard now"));
  m_bake->setVisible(!idle || baking.stopped > 0 || !baking.trouble.empty());
  m_inOrder->setEnabled(s && !s->cuts.empty());
  m_countIn->setEnabled(s && !s->cuts.empty());
  m_cost->setText(cost);
}

} // namespace tuvvo
