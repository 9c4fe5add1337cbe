#include "cut/treat_panel.h"

#include "model/edits.h"
#include "parts/treatment_row.h"
#include "play/bounce.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/control_row.h"
#include "widgets/label.h"

namespace tuvvo {

TreatPanel::TreatPanel(Panel& host, SourceService& sources, QWidget* parent)
    : Panel(host, parent), m_sources(sources) {
  m_row = ControlRow::in(this);
  m_subject = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_add = new Button(Sign::Add, tr("Treat"),
                     tr("Do something to it; it can be opened and changed at any time "
                        "(Ctrl+Shift+T)"),
                     this);
  m_add->setOpens(true);
  m_bounce = new Button(tr("Bounce"),
                        tr("Play it once with all that acts on it, and put the result "
                           "in its place (Ctrl+Shift+N)"),
                        this);
  m_row->add(m_subject, ControlRow::Stays::Always);
  m_row->add(m_add, ControlRow::Stays::Always);
  m_row->add(m_bounce, ControlRow::Stays::UnderMore);
  m_list = new TreatmentRow(
      *m_row, [this](std::size_t at) { return orderAt(at); }, this);
  connect(m_list, &TreatmentRow::addWanted, this, &TreatPanel::add);
  connect(m_list, &TreatmentRow::changeWanted, this, &TreatPanel::change);
  connect(m_list, &TreatmentRow::settleWanted, this, &Panel::settleWanted);
  connect(m_add, &QAbstractButton::clicked, this, &TreatPanel::offerKinds);
  connect(m_bounce, &QAbstractButton::clicked, this,
          [this] { m_sources.bounceInPlace(chosenKeys()); });
  connect(&sources, &SourceService::recipesChanged, this, &TreatPanel::refresh);
  for (auto signal : {&Panel::changed, &Panel::selectionChanged})
    connect(this, signal, this, &TreatPanel::refresh);
  refresh();
}

/// Of the chosen slice, or of the made source that is shown.
std::vector<Treatment> TreatPanel::shown() const {
  const auto keys = chosenKeys();
  if (!keys.empty()) return findKey(project(), keys.front())->treatments;
  const auto made = m_sources.recipeNow(selection().source);
  return made ? made->as.treatments : std::vector<Treatment>{};
}

void TreatPanel::change(const QString& name, const TreatmentRow::Change& what,
                        const QString& merge) {
  const auto keys = chosenKeys();
  if (keys.empty()) {
    const Id source = selection().source;
    const auto made = m_sources.recipeNow(source);
    if (!made) return;
    Recipe next = *made;
    what(next.as.treatments);
    for (auto& t : next.as.treatments) clamp(t);
    m_sources.remake(source, next, merge);
    return;
  }
  Project next = project();
  for (Id key : keys)
    next = withKeyChanged(std::move(next), key, [&](Key& k) { what(k.treatments); });
  edit(name, next, merge);
}

void TreatPanel::add(const TreatmentType& type) {
  const Treatment fresh{type.usual};
  if (chosenKeys().empty() && !m_sources.recipeNow(selection().source)) {
    m_sources.treatWhole(selection().source, fresh);
    return;
  }
  m_list->openLast();
  change(tr("Treat: %1").arg(TreatmentRow::nameOfType(type)), [&](std::vector<Treatment>& list) {
    if (list.size() < kMostTreatments) list.push_back(fresh);
  });
}

void TreatPanel::offerKinds() { m_list->offerKinds(m_add); }

void TreatPanel::refresh() {
  const Project& project = this->project();
  const Source* s = findSource(project, selection().source);
  const auto keys = chosenKeys();
  const bool whole = keys.empty();
  QString subject;
  if (!s)
    subject = tr("nothing chosen");
  else if (keys.size() > 1)
    subject = tr("%1 slices:").arg(keys.size());
  else if (!whole)
    subject = tr("this slice:");
  else
    subject = s->recipe ? tr("all of it:") : tr("all of it, as a new source:");
  m_subject->setText(subject);
  m_add->setEnabled(s && s->sound);
  m_bounce->setVisible(!whole);
  const auto list = shown();
  const bool elsewhere = m_source != selection().source || m_cut != selection().cut;
  m_source = selection().source;
  m_cut = selection().cut;
  m_list->show(list, elsewhere);
}

/// What is heard piece by piece where the treatments before have done their part.
std::vector<int> TreatPanel::orderAt(std::size_t at) const {
  const auto keys = chosenKeys();
  if (!keys.empty()) return piecesOf(project(), *findKey(project(), keys.front()), at);
  const auto made = m_sources.recipeNow(selection().source);
  const Source* from = made ? findSource(project(), made->as.sound.source) : nullptr;
  if (!from) return {};
  const Project beat = beatOf(project().sources, *made);
  return piecesOf(beat, beat.keys.front(), at);
}

} // namespace tuvvo
