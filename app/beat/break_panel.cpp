#include "beat/break_panel.h"
#include "session/music_text.h"

#include "beat/break_view.h"
#include "beat/start_levels.h"
#include "theme/theme.h"
#include "widgets/button.h"
#include "widgets/combo.h"
#include "widgets/control_row.h"
#include "widgets/label.h"
#include "widgets/tick.h"

#include <QVBoxLayout>

namespace tuvvo {

using theme::px;

namespace {

/// A source worth reading: of the beat, with hits and a tempo; breaks first.
std::vector<SourcePtr> readable(const Project& project) {
  std::vector<SourcePtr> out;
  for (const auto& source : project.sources)
    if (!source->kit && source->sound && source->heard && source->heard->onsets.size() > 1)
      out.push_back(source);
  std::stable_partition(out.begin(), out.end(), [](const SourcePtr& source) {
    return kindOf(*source) == SoundKind::Break;
  });
  return out;
}

} // namespace

BreakPanel::BreakPanel(Panel& host, Auditions& auditions, QWidget* parent) : Panel(host, parent) {
  m_view = new BreakView(*this, auditions, this);
  makeRows();
  connect(m_view, &BreakView::moved, this,
          [this](Seconds at, HitClass from, HitClass to, int alike) {
            m_moved = {at, from, to};
            m_alike->setSaid(tr("%1 like it: move them too").arg(alike), m_alike->toolTip());
            m_alike->setVisible(alike > 0);
          });
  connect(m_view, &BreakView::chosenChanged, this, [this] {
    m_alike->hide();
    showFigures();
  });
  refresh();
}

void BreakPanel::makeRows() {
  m_sources = new Combo(tr("Break"), tr("Which sound of this beat is read"), this);
  m_sources->setMinimumWidth(px(130));
  connect(m_sources, &QComboBox::activated, this,
          [this](int at) { read(Id(m_sources->itemData(at).toUInt())); });
  m_figures = new Label(theme::Type::Small, theme::Ink::Quiet, this);
  m_figures->setLeast(80);
  m_unsure =
      new Button(tr("Next unsure"), tr("Chooses the next hit that was not heard clearly"), this);
  connect(m_unsure, &QAbstractButton::clicked, m_view, &BreakView::chooseUnsure);
  m_right = new Button(Sign::Right, tr("It is right"),
                       tr("Says that the chosen hit is what it is called (Enter)"), this);
  connect(m_right, &QAbstractButton::clicked, this, [this] {
    if (const ReadHit* hit = m_view->chosen()) m_view->moveChosen(hit->hit);
  });
  m_alike =
      new Button(tr("Those like it too"), tr("Calls every hit that sounds like it the same"), this);
  m_alike->hide();
  connect(m_alike, &QAbstractButton::clicked, this, [this] {
    m_alike->hide();
    edit(tr("Hits alike are called the same"),
         withHitMoved(project(), m_source, m_moved.at, m_moved.from, m_moved.to, true));
  });
  using Stays = ControlRow::Stays;
  auto* top = new ControlRow(this);
  top->add(m_sources, Stays::Always);
  top->add(m_figures, Stays::Always);
  for (QWidget* w : std::initializer_list<QWidget*>{m_unsure, m_right, m_alike}) top->add(w);
  m_alike->hide();
  auto* makes = new ControlRow(this);
  const std::array<QString, 4> names{tr("kick"), tr("snare"), tr("hat"), tr("other")};
  for (std::size_t i = 0; i < names.size(); ++i) {
    m_keyBoxes[i] =
        new Combo(tr("Key for %1").arg(names[i]),
                  tr("The key of the deck that plays the break's %1").arg(names[i]), this);
    m_keyBoxes[i]->setFixedWidth(px(96));
    connect(m_keyBoxes[i], &QComboBox::activated, this, [this, i](int at) {
      m_keys[i] = Id(m_keyBoxes[i]->itemData(at).toUInt());
      m_keysChosen = true;
    });
  }
  const auto button = [&](const QString& text, const QString& tip, auto run) {
    auto* made = new Button(text, tip, this);
    connect(made, &QAbstractButton::clicked, this, run);
    makes->add(made);
    m_needReading.push_back(made);
  };
  m_into =
      new Tick(tr("Into this pattern"),
               tr("Lays the hits into the pattern that is shown, in place of what the same keys "
                  "have there; off: into one of their own"),
               this);
  button(tr("Play it with these"), tr("What the break plays, on these keys, as it was played"),
         [this] { playWithKeys(); });
  button(tr("Rebuild from its own hits"),
         tr("The cleanest hit of each class on a key of its own, and a pattern that plays them"),
         [this] { rebuild(); });
  button(tr("Drums follow it"),
         tr("Lays this sound's timing and accents on all drums of the pattern that is shown"),
         [this] { follow(); });
  makes->add(m_into);
  for (QComboBox* box : m_keyBoxes) makes->add(box, Stays::UnderMore);
  makes->more()->setSaid(tr("Keys"), tr("The keys of the deck that play what was read"));
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(px(4));
  column->addWidget(top);
  column->addWidget(m_view, 1);
  column->addWidget(makes);
}

void BreakPanel::read(Id source) {
  m_source = source;
  m_alike->hide();
  refresh();
}

void BreakPanel::fillSources() {
  const auto sources = readable(project());
  const bool known = std::any_of(sources.begin(), sources.end(),
                                 [&](const SourcePtr& s) { return s->id == m_source; });
  if (!known) m_source = sources.empty() ? 0 : sources.front()->id;
  m_sources->clear();
  for (const auto& source : sources) {
    m_sources->addItem(QString::fromStdString(source->name), uint(source->id));
    if (source->id == m_source) m_sources->setCurrentIndex(m_sources->count() - 1);
  }
  m_sources->setEnabled(!sources.empty());
}

void BreakPanel::fillKeys() {
  const Project& p = project();
  if (p.keys == m_shownKeys) return; // filling four lists at every edit would be felt
  m_shownKeys = p.keys;
  if (!m_keysChosen) m_keys = usualKeys(p);
  for (std::size_t i = 0; i < m_keyBoxes.size(); ++i) {
    QComboBox* box = m_keyBoxes[i];
    box->clear();
    box->addItem(tr("leave out"), 0u);
    for (const auto& key : p.keys) {
      if (key.row == Row::Cuts) continue;
      box->addItem(nameText(p, key), uint(key.id));
      if (key.id == m_keys[i]) box->setCurrentIndex(box->count() - 1);
    }
  }
}

void BreakPanel::showFigures() {
  QString words = m_trouble;
  int unsure = 0;
  if (m_reading) {
    for (const auto& hit : m_reading->hits) unsure += !hit.sure;
    words = unsure == 0 ? tr("%1 hits, all sure").arg(m_reading->hits.size())
                        : tr("%1 hits, %2 not sure").arg(m_reading->hits.size()).arg(unsure);
    words +=
        tr(" · %1 beats at %2 BPM").arg(m_reading->beats).arg(m_reading->tempo.value, 0, 'f', 1);
  }
  m_figures->setText(words);
  m_figures->setInk(m_reading ? theme::Ink::Quiet : theme::Ink::Coral);
  m_unsure->setEnabled(unsure > 0);
  m_right->setEnabled(m_view->chosen() && !m_view->chosen()->sure);
  for (QWidget* widget : m_needReading) widget->setEnabled(m_reading.has_value());
}

void BreakPanel::refresh() {
  fillSources();
  fillKeys();
  SourcePtr source;
  for (const auto& each : project().sources)
    if (each->id == m_source) source = each;
  if (source != m_read) {
    m_read = source;
    m_reading.reset();
    m_trouble = tr("Take a break or a loop into this beat first (Crate).");
    if (source) {
      auto read = readBreak(*source);
      if (read)
        m_reading = *read;
      else
        m_trouble = QString::fromStdString(read.error().text());
    }
    m_view->setReading(m_source, m_reading);
  }
  showFigures();
}

void BreakPanel::take(Id pattern, const QString& name, const Project& next) {
  if (pattern == 0) {
    emit message(tr("None of its hits has a key to play it: choose keys first."), true);
    return;
  }
  edit(name, next);
  selectPattern(pattern);
}

Id BreakPanel::into() const { return m_into->isChecked() ? selection().pattern : 0; }

void BreakPanel::playWithKeys() {
  if (!m_reading) return;
  Id pattern = 0;
  Project next = withBreakPlayed(project(), m_source, *m_reading, m_keys, into(), &pattern);
  take(pattern, tr("Play a break with keys"), next);
}

void BreakPanel::rebuild() {
  if (!m_reading) return;
  Id pattern = 0;
  Project next = withBreakRebuilt(project(), m_source, *m_reading, into(), &pattern);
  std::vector<Id> fresh;
  for (const auto& part : next.parts)
    if (!findPart(project(), part.id)) fresh.push_back(part.id);
  LoudnessCache loudness;
  next = withStartLevels(std::move(next), fresh, pattern, Among::AsTheyAre, loudness);
  take(pattern, tr("Rebuild a break"), next);
}

void BreakPanel::follow() {
  const Source* source = findSource(project(), m_source);
  if (!source) return;
  auto next = withDrumsFollowing(project(), selection().pattern, *source);
  if (!next)
    emit message(QString::fromStdString(next.error().text()), true);
  else
    edit(tr("Drums follow %1").arg(QString::fromStdString(source->name)), *next);
}

} // namespace tuvvo
