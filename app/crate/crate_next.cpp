// The one next step with the chosen source.
#include "crate/crate_stage.h"
#include "model/edits.h"
#include "widgets/button.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

bool anyHits(const Project& project) {
  return !std::all_of(project.patterns.begin(), project.patterns.end(),
                      [](const PatternPtr& pattern) { return isEmpty(*pattern); });
}

} // namespace

CrateStage::Next CrateStage::nextStep() const {
  const Source* source = m_subject.source.get();
  if (!source || m_subject.missing || m_scope == Scope::Service) return Next::Nothing;
  if (m_scope == Scope::Crate) return Next::Keep;
  // A beat in which nothing is set yet takes its tempo and key from its first source.
  const bool untouched = !project().key && !anyHits(project());
  const auto grid = gridOf(*source);
  const bool tempoTaken = !grid || std::abs(grid->tempo.value - project().tempo.value) < 0.005;
  const bool keyTaken = !keyOf(*source);
  if (untouched && !(tempoTaken && keyTaken)) return Next::TakeTempoAndKey;
  return Next::Cut;
}

void CrateStage::showNext() {
  const Next next = nextStep();
  m_next->setVisible(next != Next::Nothing);
  const Source* source = m_subject.source.get();
  switch (next) {
  case Next::Nothing:
    break;
  case Next::TakeTempoAndKey: {
    const bool tempo = gridOf(*source).has_value(), key = keyOf(*source).has_value();
    m_next->setSign(Sign::Tune);
    m_next->setSaid(tempo && key ? tr("Take its tempo and key for the beat")
                    : tempo      ? tr("Take its tempo for the beat")
                                 : tr("Take its key for the beat"),
                    tr("The beat then is as this source is, and it fits without a change"));
    break;
  }
  case Next::Keep:
    m_next->setSign(Sign::Keep);
    m_next->setSaid(tr("Take it into the beat"),
                    tr("It is cut and played from there (Ctrl+Enter)"));
    break;
  case Next::Cut:
    m_next->setSign(Sign::Cut);
    m_next->setSaid(tr("Cut it"), tr("Go on with it in Cut (F2)"));
    break;
  }
}

void CrateStage::doNext() {
  switch (nextStep()) {
  case Next::Nothing:
    break;
  case Next::TakeTempoAndKey:
    edit(tr("Take tempo and key of %1").arg(QString::fromStdString(m_subject.source->name)),
         withTempoAndKeyOf(project(), *m_subject.source));
    break;
  case Next::Keep:
    keepIt();
    break;
  case Next::Cut:
    emit goTo(Stage::Cut);
    break;
  }
}

} // namespace tuvvo
