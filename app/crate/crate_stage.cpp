#include "crate/crate_stage.h"
#include "session/source_service.h"

#include "crate/overlay_view.h"
#include "crate/provenance_form.h"
#include "crate/reach_map.h"
#include "crate/scan_line.h"
#include "crate/search_line.h"
#include "crate/source_card.h"
#include "crate/source_list.h"
#include "parts/choose_sounds.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/empty_place.h"
#include "widgets/label.h"
#include "widgets/stage_head.h"
#include "widgets/tabs.h"
#include "widgets/tick.h"

#include <QHBoxLayout>
#include <QScrollArea>
#include <QStackedWidget>
#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

CrateStage::CrateStage(Panel& host, const Uses& uses, QWidget* parent)
    : StageView(host, parent), m_crate(uses.crate), m_sources(uses.sources),
      m_auditions(uses.auditions), m_peaks(uses.peaks), m_player(uses.player), m_reel(uses.reel) {
  m_clock.start();
  buildHead();
  auto* left = new QVBoxLayout;
  left->setSpacing(px(8));
  buildLeft(left);
  // Where the window is small or the text large, the right side is scrolled rather than squeezed.
  auto* area = new QScrollArea(this);
  area->setWidgetResizable(true);
  area->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  area->setFocusPolicy(Qt::NoFocus);
  auto* side = new QWidget(area);
  area->setWidget(side);
  auto* right = new QVBoxLayout(side);
  right->setContentsMargins(0, 0, 0, 0);
  right->setSpacing(px(8));
  buildRight(right);
  m_body = new QWidget(this);
  auto* row = new QHBoxLayout(m_body);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(px(16));
  row->addLayout(left, 4);
  row->addWidget(area, 6);
  buildEmpty();
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(px(20), px(12), px(12), px(12));
  column->setSpacing(px(12));
  column->addWidget(m_head);
  column->addWidget(m_body, 1);
  column->addWidget(m_empty, 1);
  setFocusProxy(m_list);
  addCommands();

  m_searchTimer.setSingleShot(true);
  connect(&m_searchTimer, &QTimer::timeout, this, &CrateStage::search);
  connect(m_search, &SearchLine::changed, this, &CrateStage::search);
  connect(m_search, &SearchLine::leave, this, [this] { m_list->setFocus(); });
  connect(m_list, &SourceList::chosen, this, [this] {
    if (const auto row2 = m_list->current(); row2 && !m_filling) choose(*row2);
  });
  connect(m_list, &QAbstractItemView::activated, this, &CrateStage::playWithBeat);
  connect(m_map, &ReachMap::picked, this, [this](RowId row2) {
    m_list->choose(row2);
    choose(row2);
    playWithBeat();
  });
  connect(m_provenance, &ProvenanceForm::edited, this,
          [this](const QString& name, const Marks& marks) {
            m_crate.markSound(name, m_subject.source->hash, marks);
          });
  connect(this, &Panel::changed, this, &CrateStage::refresh);
  connect(&m_crate, &CrateService::changed, this, [this] {
    // Many changes a second while it scans: the list follows four times a second.
    if (!m_searchTimer.isActive()) m_searchTimer.start(250);
  });
  connect(this, &Panel::selectionChanged, this, [this] {
    if (m_scope == Scope::Beat) refresh();
  });
  connect(&m_auditions, &Auditions::changed, this, [this] {
    const auto& now = m_auditions.heard();
    m_list->setSounding(now.hash);
    showSubject();
  });
  setScope(Scope::Beat);
}

void CrateStage::buildHead() {
  m_head = new StageHead(this);
  m_head->say(tr("Crate"), {});
  m_scopes = m_head->addTabs(tr("Where to look"));
  m_scopes->add(tr("This beat"), tr("Sources of this beat (Ctrl+1)"));
  m_scopes->add(tr("Everything"), tr("Everything in your folders (Ctrl+2)"));
  m_scopes->add(tr("Service"),
                tr("A simulated sample service: sounds that ship with Tuvvo (Ctrl+3)"));
  connect(m_scopes, &Tabs::wanted, this, [this](int scope) { setScope(Scope(scope)); });
  m_head->addStretch();
  m_kit = new Tick(tr("With the kit"), tr("Show the drums that ship as well"), m_head);
  m_add = new Button(Sign::Add, tr("Add sounds"), tr("Add sounds or a folder (Ctrl+I)"), m_head);
  m_head->add(m_add);
  m_head->add(m_kit, ControlRow::Stays::UnderMore);
  m_next = m_head->addNext(QString(), QString());
  connect(m_next, &QAbstractButton::clicked, this, &CrateStage::doNext);
}

void CrateStage::buildLeft(QBoxLayout* left) {
  m_search = new SearchLine(*this, m_crate, this);
  m_notice = new Label(theme::Type::Small, theme::Ink::Brass, this);
  m_notice->setWraps(true);
  m_notice->setText(tr("Simulated service: offline, nothing is sent or paid. Get copies a "
                       "sound into your crate."));
  m_model = new SourceListModel([this](RowId row) { return rowOf(row); }, this);
  m_list = new SourceList(m_model, this);
  m_scan = new ScanLine(*this, m_crate, this);
  left->addWidget(m_notice);
  left->addWidget(m_search);
  left->addWidget(m_list, 1);
  left->addWidget(m_scan);
  connect(m_kit, &QAbstractButton::toggled, this, [this](bool on) {
    m_showKit = on;
    search();
  });
  connect(m_add, &QAbstractButton::clicked, this, [this] {
    if (m_scope == Scope::Crate)
      m_scan->chooseFolder();
    else
      m_sources.importFiles(chooseSounds(this));
  });
}

void CrateStage::buildRight(QBoxLayout* right) {
  m_card = new SourceCard(*this, m_peaks, m_auditions, this);
  m_acts = makeActs();
  m_panels = new Tabs(tr("Under the card"), this);
  m_panels->add(tr("Reach map"), tr("What fits this beat, and how far off the rest is"));
  m_panels->add(tr("Rights and origin"),
                tr("Who made it, where it came from, what may be done with it; tags, stars"));
  m_panels->add(tr("Lies over"), tr("Where it lies well over another source of this beat"));
  m_map = new ReachMap(*this, this);
  m_overlay = new OverlayView(*this, m_auditions, this);
  m_provenance = new ProvenanceForm(this);
  auto* provenance = new QScrollArea(this);
  provenance->setWidgetResizable(true);
  provenance->setFocusPolicy(Qt::NoFocus); // its fields take it
  provenance->setWidget(m_provenance);
  m_lower = new QStackedWidget(this);
  m_lower->addWidget(m_map);
  m_lower->addWidget(provenance);
  m_lower->addWidget(m_overlay);
  for (int i = 0; i < m_lower->count(); ++i) m_panels->setShows(i, m_lower->widget(i));
  m_lower->setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Ignored); // as much as there is
  m_lower->setMinimumHeight(px(165));
  connect(m_panels, &Tabs::wanted, this, [this](int panel) {
    m_panels->choose(panel);
    m_lower->setCurrentIndex(panel);
  });
  right->addWidget(m_card);
  right->addWidget(m_acts);
  right->addWidget(m_panels);
  right->addWidget(m_lower, 1);
}

ControlRow* CrateStage::makeActs() {
  auto* row = new ControlRow(this);
  m_hear = new Button(Sign::Hear, tr("Play in the beat"),
                      tr("Hear it at the beat's tempo and key, in time with it; again to stop "
                         "(Enter in the list)"),
                      row);
  m_hear->setObjectName(QStringLiteral("hear"));
  m_hear->setCheckable(true);
  m_keep = new Button(Sign::Keep, tr("On the deck"), tr("Put it on a key of the deck (Ctrl+Enter)"),
                      row);
  m_half = new Button(tr("÷2"), tr("Its tempo is half of that (Ctrl+−)"), row);
  m_double = new Button(tr("×2"), tr("Its tempo is twice that (Ctrl+=)"), row);
  m_tap = new Button(Sign::Tap, tr("Tap"),
                     tr("Tap this source's tempo while it plays (Ctrl+Shift+T)"), row);
  m_key = new Button(tr("Key"), tr("Say which key it is in"), row);
  m_kind = new Button(tr("Kind"), tr("Say what it is"), row);
  m_heardAgain = new Button(tr("As heard"), tr("Take back what you corrected"), row);
  m_remove = new Button(Sign::Remove, tr("Remove"), {}, row);
  m_remove->setWeight(Button::Weight::Danger);
  for (Button* menu : {m_key, m_kind}) menu->setOpens(true);
  row->more()->setSaid(tr("Correct"), tr("Say what was heard wrongly: tempo, key, kind"));
  using Stays = ControlRow::Stays;
  row->add(m_hear, Stays::Always);
  row->add(m_keep, Stays::Always);
  row->addStretch();
  row->add(m_remove);
  for (Button* button : {m_half, m_double, m_tap, m_key, m_kind, m_heardAgain})
    row->add(button, Stays::UnderMore);
  return row;
}

void CrateStage::addCommands() {
  for (int s = 0; s < 3; ++s)
    addCommand(tr("Show: %1").arg(m_scopes->tab(s)->text()),
               QKeySequence(Qt::CTRL | (Qt::Key_1 + s)), [this, s] { setScope(Scope(s)); });
  addCommand(tr("Search the crate"), QKeySequence(Qt::CTRL | Qt::Key_F), [this] {
    if (m_scope == Scope::Beat) setScope(Scope::Crate);
    m_search->focusWords();
  });
  auto* half = addCommand(tr("Half its tempo"), QKeySequence(Qt::CTRL | Qt::Key_Minus),
                          [this] { correctTempo(0.5); });
  auto* twice = addCommand(tr("Double its tempo"), QKeySequence(Qt::CTRL | Qt::Key_Equal),
                           [this] { correctTempo(2); });
  auto* tap = addCommand(tr("Tap its tempo"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_T),
                         [this] { tapSource(); });
  auto* key = addCommand(tr("Say its key"), {}, [this] { chooseKey(); });
  auto* kind = addCommand(tr("Say what it is"), {}, [this] { chooseKind(); });
  auto* again = addCommand(tr("Take back corrections"), {}, [this] {
    correct(tr("Take back corrections"), [](Corrections& c) { c = {}; });
  });
  auto* keep = addCommand(tr("Keep it: into the beat, or onto the deck"),
                          QKeySequence(Qt::CTRL | Qt::Key_Return), [this] { keepIt(); });
  auto* play = addCommand(tr("Hear it with the beat"), {}, [this] { playWithBeat(); });
  addCommand(tr("Find what is like it"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_F),
             [this] { findLikeIt(); });
  addCommand(tr("Play it into the simulated line"), {}, [this] { playIntoLine(); });
  addCommand(tr("Hear the next one"), QKeySequence(Qt::CTRL | Qt::Key_Down), [this] {
    const int place = m_list->currentIndex().row() + 1;
    if (place < m_model->rowCount()) m_list->setCurrentIndex(m_model->index(place));
    if (m_auditions.heard().hash.empty()) playWithBeat();
  });
  auto* gone =
      addCommand(tr("Remove the source"), QKeySequence(Qt::Key_Delete), [this] { remove(); });
  addCommand(tr("One star more"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Up),
             [this] { giveStars(1); });
  addCommand(tr("One star less"), QKeySequence(Qt::CTRL | Qt::SHIFT | Qt::Key_Down),
             [this] { giveStars(-1); });
  addCommand(tr("Add a folder of sounds…"), {}, [this] { m_scan->chooseFolder(); });
  connect(m_hear, &QAbstractButton::clicked, play, &QAction::trigger);
  connect(m_keep, &QAbstractButton::clicked, keep, &QAction::trigger);
  connect(m_half, &QAbstractButton::clicked, half, &QAction::trigger);
  connect(m_double, &QAbstractButton::clicked, twice, &QAction::trigger);
  connect(m_tap, &QAbstractButton::pressed, tap, &QAction::trigger);
  connect(m_key, &QAbstractButton::clicked, key, &QAction::trigger);
  connect(m_kind, &QAbstractButton::clicked, kind, &QAction::trigger);
  connect(m_heardAgain, &QAbstractButton::clicked, again, &QAction::trigger);
  connect(m_remove, &QAbstractButton::clicked, gone, &QAction::trigger);
}

void CrateStage::setScope(Scope scope) {
  m_scope = scope;
  m_scopes->choose(int(scope));
  m_search->setVisible(scope != Scope::Beat);
  m_search->setOrdered(scope == Scope::Crate);
  m_notice->setVisible(scope == Scope::Service);
  m_scan->setVisible(scope == Scope::Crate);
  m_kit->setVisible(scope == Scope::Beat);
  m_add->setSaid(scope == Scope::Crate ? tr("Add folder…") : tr("Add sounds…"), m_add->toolTip());
  if (scope != Scope::Beat) (void)m_crate.crate();
  switch (scope) {
  case Scope::Beat:
    m_list->setEmptyText(tr("Drop a sound here, look through your crate (Ctrl+2), or open the demo "
                            "from File."));
    break;
  case Scope::Crate:
    m_list->setEmptyText(tr("Add a folder of sounds: every one in it is heard once, and what fits "
                            "this beat comes first."));
    break;
  case Scope::Service:
    m_list->setEmptyText(tr("Nothing in the simulated service answers to that."));
    break;
  }
  search();
}

bool CrateStage::showPanel(const QString& name) {
  const QString which = name.section(QLatin1Char('/'), 0, 0),
                source = name.section(QLatin1Char('/'), 1);
  const QStringList scopes{QStringLiteral("beat"), QStringLiteral("crate"),
                           QStringLiteral("service")};
  if (which == QLatin1String("papers"))
    emit m_panels->wanted(1);
  else if (which == QLatin1String("over"))
    emit m_panels->wanted(2);
  else if (scopes.contains(which))
    setScope(Scope(scopes.indexOf(which)));
  else
    return false;
  for (int row = 0; row < m_model->rowCount() && !source.isEmpty(); ++row)
    if (m_model->index(row).data().toString() == source)
      m_list->setCurrentIndex(m_model->index(row));
  return true;
}

Query CrateStage::askedFor() {
  Query query = m_search->query();
  if (!query.likeThis)
    m_like.reset();
  else if (!m_like && m_subject.heard()) {
    m_like = likenessOf(*m_subject.source->heard);
    m_search->setLike(m_like ? QString::fromStdString(m_subject.source->name) : QString());
  }
  query.like = m_like;
  return query;
}

void CrateStage::search() {
  std::vector<RowId> rows;
  int total = 0;
  const Query query = askedFor();
  m_card->setAsked(m_scope == Scope::Beat ? PartWanted{} : query.part);
  if (m_scope == Scope::Beat) {
    for (const auto& source : project().sources)
      if (!source->kit || m_showKit) rows.push_back({Scope::Beat, source->id});
  } else if (m_scope == Scope::Crate && m_crate.crate()) {
    const auto found = m_crate.crate()->find(query, m_search->order(), beatNowOf(project()));
    if (found)
      for (CrateId id : found->ids) rows.push_back({Scope::Crate, id});
    else
      emit message(QString::fromStdString(found.error().text()), true);
    total = found ? found->total : 0;
    if (total > 0) m_list->setEmptyText(tr("Nothing in the crate answers to that."));
  } else if (m_scope == Scope::Service && service()) {
    for (std::size_t place : service()->find(query, beatNowOf(project())))
      rows.push_back({Scope::Service, std::int64_t(place) + 1});
    total = int(service()->items().size());
  }
  m_filling = true;
  m_search->setCount(int(rows.size()), total);
  m_list->setBeat(beatNowOf(project()));
  const RowId wanted =
      m_scope == Scope::Beat ? RowId{Scope::Beat, selection().source} : m_subject.row;
  m_model->setRows(std::move(rows));
  const auto& all = m_model->rows();
  if (m_model->placeOf(wanted) >= 0)
    m_list->choose(wanted);
  else if (!all.empty())
    m_list->choose(all.front());
  m_filling = false;
  showBody();
  fillMap();
  const auto now = m_list->current();
  if (now)
    choose(*now);
  else {
    m_subject = {};
    showSubject();
  }
}

void CrateStage::refresh() {
  if (m_scope == Scope::Beat) return search();
  if (!m_searchTimer.isActive()) m_searchTimer.start(60);
}

void CrateStage::choose(RowId row) {
  const bool other = !(row == m_subject.row);
  m_subject = subjectOf(row);
  if (row.scope == Scope::Beat && m_subject.any() && selection().source != Id(row.id))
    selectSource(Id(row.id));
  showSubject();
  if (other && !m_auditions.heard().hash.empty() && m_list->hasFocus())
    m_auditions.audition(m_subject.source);
}

void CrateStage::showSubject() {
  const Source* source = m_subject.source.get();
  m_card->setSubject(m_subject);
  m_provenance->setSubject(m_subject);
  m_overlay->setSubject(m_subject);
  m_map->setChosen(source ? std::optional(m_subject.row) : std::nullopt);
  const bool any = source != nullptr, there = any && !m_subject.missing;
  const bool ours = any && m_scope != Scope::Service;
  const bool timed = ours && gridOf(*source).has_value();
  m_hear->setEnabled(there && (source->sound || !source->origin.empty()));
  m_hear->setChecked(any && m_auditions.hears(*source));
  m_keep->setVisible(m_scope == Scope::Beat); // elsewhere it is the next step
  m_keep->setEnabled(there);
  for (Button* button : {m_half, m_double, m_tap, m_key, m_kind, m_heardAgain, m_remove})
    button->setVisible(m_scope != Scope::Service); // what is not had yet is not corrected
  m_half->setEnabled(timed);
  m_double->setEnabled(timed);
  m_tap->setEnabled(ours);
  m_key->setEnabled(ours);
  m_kind->setEnabled(ours && source->heard);
  m_heardAgain->setEnabled(ours && source->corrections != Corrections{});
  m_remove->setEnabled(ours && (m_scope == Scope::Beat || m_subject.missing));
  m_remove->setSaid(m_scope == Scope::Beat ? tr("Remove") : tr("Forget"),
                    m_scope == Scope::Beat ? tr("Take it out of this beat; can be undone (Delete)")
                                           : tr("Forget a source whose file is gone (Delete)"));
  showNext();
}

} // namespace tuvvo
