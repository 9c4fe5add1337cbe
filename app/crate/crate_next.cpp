// The one next step with the chosen source.
#include "crate/crate_stage.h"
#include "crate/source_list.h"
#include "model/edits.h"
#include "widgets/button.h"
#include "widgets/empty_place.h"

#include <QSettings>
#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

bool anyHits(const Project& project) {
  return !std::all_of(project.patterns.begin(), project.patterns.end(),
                      [](const PatternPtr& pattern) { return isEmpty(*pattern); });
}

} // namespace

/// A first start offers three ways; whoever has taken the tour finds the crate in its place.
void CrateStage::buildEmpty() {
  m_empty = new EmptyPlace(this);
  m_empty->say(tr("A beat begins with a sound"),
               tr("Drop one anywhere here: its tempo, key and hits are heard at once."));
  connect(m_empty->addWay(Sign::Add, tr("Choose sounds of yours…"), tr("Add sounds (Ctrl+I)")),
          &QAbstractButton::clicked, m_add, &QAbstractButton::click);
  connect(m_empty->addWay(Sign::Hear, tr("Open the demo"),
                          tr("A finished beat of ours, to look around in; yours is kept")),
          &QAbstractButton::clicked, this, &CrateStage::demoWanted);
  m_takeTour = m_empty->addWay(
      Sign::Pin, tr("Take the tour"),
      tr("Five steps on the demo, done by doing; a few minutes. It stands under Help too"));
  connect(m_takeTour, &QAbstractButton::clicked, this, &CrateStage::tourWanted);
  m_lookThrough = m_empty->addWay(Sign::Keep, tr("Look through your folders"),
                                  tr("Everything in folders that you name (Ctrl+2)"));
  connect(m_lookThrough, &QAbstractButton::clicked, this, [this] { setScope(Scope::Crate); });
}

/// The list and the card, or the ways to begin where the beat has no sound.
void CrateStage::showBody() {
  const bool empty = m_scope == Scope::Beat && m_model->rows().empty();
  m_body->setVisible(!empty);
  m_empty->setVisible(empty);
  const bool tourTaken = QSettings().value(QStringLiteral("tour taken"), false).toBool();
  m_takeTour->setVisible(!tourTaken);
  m_lookThrough->setVisible(tourTaken);
  m_add->setVisible(!empty && m_scope != Scope::Service); // there it is a way to begin
  setFocusProxy(empty ? static_cast<QWidget*>(m_empty) : m_list);
}

CrateStage::Next CrateStage::nextStep() const {
  const Source* source = m_subject.source.get();
  if (!source || m_subject.missing) return Next::Nothing;
  if (m_scope != Scope::Beat) return Next::Keep;
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
    if (m_scope == Scope::Service)
      m_next->setSaid(tr("Get"), tr("Copy it into the crate with its licence (Ctrl+Enter)"));
    else
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
