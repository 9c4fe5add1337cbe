#include "session/session.h"

#include "base/tempo_map.h"
#include "model/edits.h"
#include "session/measure_song.h"

#include <QCoreApplication>

namespace tuvvo {

Session::Session(QObject* parent) : QObject(parent), m_history(Project{}) {
  m_clock.start();
  m_controllers = new ControllerService(*this);
  m_catch = new CatchService(*this);
  m_sifter = new Sifter(*this);
  m_standIn = new StandIn(*this);
  m_bakeTimer.setSingleShot(true); // slices that come out of the oven together are taken together
  m_bakeTimer.setInterval(20);
  connect(&m_bakeTimer, &QTimer::timeout, this, [this] {
    rebuildScore();
    emit bakeMoved();
  });
  m_savedStep = m_autosavedStep = m_history.current();
  connect(&m_pollTimer, &QTimer::timeout, this, &Session::poll);
  m_pollTimer.start(33);
  connect(&m_autosaveTimer, &QTimer::timeout, this, &Session::autosave);
  m_autosaveTimer.start(5000);
  connect(&m_watchTimer, &QTimer::timeout, this, [this] {
    const std::string said = m_liveSound.watch();
    if (!said.empty()) emit message(QString::fromStdString(said), true);
    m_controllers->watch();
    m_catch->watch();
    const std::string trouble = m_soundMemory.takeTrouble();
    if (!trouble.empty()) emit message(QString::fromStdString(trouble), true);
  });
  m_watchTimer.start(500);
  m_settleTimer.setSingleShot(true);
  connect(&m_settleTimer, &QTimer::timeout, this, &Session::refreshMeasure);
}

Session::~Session() {
  delete m_standIn;
  delete m_sifter;
  delete m_catch;
  delete m_controllers;
  m_liveSound.close(); // no more calls into the engine
  m_scanner.reset();
  if (m_crate) (void)m_crate->writeProvenance();
  leaveFolder();
}

void Session::later(std::function<void()> action) {
  QMetaObject::invokeMethod(this, std::move(action), Qt::QueuedConnection);
}

void Session::edit(const QString& name, Project next, const QString& merge) {
  if (next == project()) return;
  m_crateSteps.erase(m_crateSteps.upper_bound(m_history.place()), m_crateSteps.end());
  m_history.apply(name.toStdString(), std::move(next), merge.toStdString());
  documentChanged();
}

void Session::undo() {
  if (!m_history.canUndo()) return;
  const QString name = QString::fromStdString(m_history.names()[m_history.place()]);
  goToStep(m_history.place() - 1);
  emit message(tr("Undone: %1").arg(name), false);
}

void Session::redo() {
  if (!m_history.canRedo()) return;
  goToStep(m_history.place() + 1);
  emit message(
      tr("Done again: %1").arg(QString::fromStdString(m_history.names()[m_history.place()])),
      false);
}

void Session::goToStep(std::size_t place) {
  takeCrateSteps(m_history.place(), place);
  m_history.goTo(place);
  documentChanged();
}

void Session::documentChanged() {
  keepSelectionAlive();
  writeThrough();
  rebuildScore();
  if (m_auditionSource && m_auditionBeat != beatNow()) playAudition(m_auditionSource);
  emit changed();
  refreshNotes();
  m_settleTimer.start(1200);
}

void Session::keepSelectionAlive() {
  const Project& p = project();
  Selection s = m_selection;
  const Source* source = findSource(p, s.source);
  if (!source) {
    s.source = 0;
    for (const auto& candidate : p.sources)
      if (!candidate->kit && !s.source) s.source = candidate->id;
    source = findSource(p, s.source);
  }
  if (!source || !findCut(*source, s.cut)) s.cut = 0;
  std::erase_if(s.alsoCuts, [&](Id cut) { return s.cut == 0 || !findCut(*source, cut); });
  if (!findKey(p, s.key)) s.key = p.keys.empty() ? 0 : p.keys.front().id;
  if (!findPattern(p, s.pattern)) s.pattern = p.patterns.empty() ? 0 : p.patterns.front()->id;
  if (!findSection(p, s.section)) s.section = p.sections.empty() ? 0 : p.sections.front().id;
  s.page = std::min(s.page, cutPages(p) - 1);
  if (s == m_selection) return;
  m_selection = s;
  emit selectionChanged();
}

void Session::select(const Selection& selection) {
  if (selection == m_selection) return;
  const bool otherPattern = selection.pattern != m_selection.pattern;
  m_selection = selection;
  if (otherPattern && m_plays == Plays::Pattern) rebuildScore();
  emit selectionChanged();
}

void Session::selectSource(Id source) {
  Selection s = m_selection;
  s.source = source;
  s.cut = 0;
  s.alsoCuts.clear();
  select(s);
}

void Session::selectKey(Id id) {
  Selection s = m_selection;
  s.key = id;
  if (const Key* key = findKey(project(), id)) {
    const Source* source = findSource(project(), key->sound.source);
    if (source && !source->kit) {
      s.source = key->sound.source;
      s.cut = key->sound.cut;
      s.alsoCuts.clear();
    }
    if (key->row == Row::Cuts) s.page = key->page;
  }
  select(s);
}

void Session::selectCut(Id source, Id cut) {
  Selection s = m_selection;
  s.source = source;
  s.cut = cut;
  s.alsoCuts.clear();
  for (const auto& key : project().keys)
    if (cut != 0 && key.sound == SoundRef{source, cut}) {
      s.key = key.id;
      if (key.row == Row::Cuts) s.page = key.page;
    }
  select(s);
}

void Session::toggleCut(Id cut) {
  Selection s = m_selection;
  if (s.cut == 0 || cut == s.cut) return selectCut(s.source, cut);
  if (!s.alsoCuts.insert(cut).second) s.alsoCuts.erase(cut);
  select(s);
}

void Session::extendToCut(Id cut) {
  Selection s = m_selection;
  const Source* source = findSource(project(), s.source);
  if (!source || s.cut == 0) return selectCut(s.source, cut);
  s.alsoCuts.clear();
  bool inside = false;
  for (const auto& each : source->cuts) {
    const bool end = each.id == s.cut || each.id == cut;
    if (inside || end) s.alsoCuts.insert(each.id);
    if (end && s.cut != cut) inside = !inside;
  }
  s.alsoCuts.erase(s.cut);
  select(s);
}

void Session::selectAllCuts() {
  const Source* source = findSource(project(), m_selection.source);
  if (!source || source->cuts.empty()) return;
  if (m_selection.cut == 0) selectCut(source->id, source->cuts.front().id);
  Selection s = m_selection;
  for (const auto& cut : source->cuts)
    if (cut.id != s.cut) s.alsoCuts.insert(cut.id);
  select(s);
}

std::vector<Id> Session::chosenKeys() const {
  if (m_selection.cut == 0) return {};
  return slicesOf(project(), m_selection.source, [this](Id cut) {
    return cut == m_selection.cut || m_selection.alsoCuts.contains(cut);
  });
}

void Session::selectPattern(Id pattern) {
  Selection s = m_selection;
  s.pattern = pattern;
  select(s);
}

void Session::selectSection(Id section) {
  Selection s = m_selection;
  s.section = section;
  if (const Section* found = findSection(project(), section)) s.pattern = found->pattern;
  select(s);
}

void Session::setPage(int page) {
  Selection s = m_selection;
  s.page = std::clamp(page, 0, cutPages(project()) - 1);
  select(s);
}

PeaksPtr Session::peaksOf(const Source& source) {
  if (!source.sound) return nullptr;
  const QString hash = QString::fromStdString(source.hash);
  const auto known = m_peaksByHash.constFind(hash);
  if (known != m_peaksByHash.constEnd()) return *known;
  // Long sounds are measured in the background; the picture follows.
  if (source.sound->duration().value < 30)
    return m_peaksByHash[hash] = std::make_shared<Peaks>(*source.sound);
  m_peaksByHash[hash] = nullptr;
  m_pool.run([this, hash, sound = source.sound](JobContext&) {
    auto peaks = std::make_shared<Peaks>(*sound);
    later([this, hash, peaks] {
      m_peaksByHash[hash] = peaks;
      emit changed();
    });
  });
  return nullptr;
}

/// One at a time, however fast edits come; what came meanwhile is seen to afterwards.
void Session::refreshNotes() {
  m_notesStale = m_notesRunning;
  if (m_notesRunning) return;
  m_notesRunning = true;
  m_pool.run(
      [this, value = projectPtr(), loudness = m_loudness](JobContext&) {
        auto notes = notesOf(*value, *loudness);
        later([this, notes = std::move(notes)] {
          m_notesRunning = false;
          m_notes = notes;
          emit notesChanged();
          if (m_notesStale) refreshNotes();
        });
      },
      [this](const Error& error) {
        m_sayTrouble(error);
        later([this] { m_notesRunning = false; }); // the next edit asks again
      });
}

void Session::doNote(std::size_t index) {
  if (index >= m_notes.size() || !m_notes[index].fix) return;
  const Note note = m_notes[index];
  edit(QString::fromStdString(note.action), note.fix(project()));
}

void Session::hushNote(std::size_t index) {
  if (index >= m_notes.size()) return;
  Project next = project();
  next.hushed.insert(m_notes[index].id);
  edit(tr("Hush a note"), std::move(next));
}

void Session::refreshMeasure() {
  const int run = ++m_measureRun;
  m_pool.run([this, run, value = projectPtr()](JobContext& job) {
    auto measure = measureSong(*value, m_bakery, job);
    later([this, run, measure = std::move(measure)] {
      if (run != m_measureRun) return;
      m_measure = measure;
      emit measured();
    });
  });
}

void Session::tapTempo() {
  m_taps.tap(Seconds(double(m_clock.nsecsElapsed()) * 1e-9));
  const auto tempo = m_taps.tempo();
  if (!tempo) return;
  Project next = project();
  next.tempo = Bpm(std::clamp(std::round(tempo->bpm.value * 100) / 100, kSlowestTempo.value,
                              kFastestTempo.value));
  edit(tr("Tap the tempo"), std::move(next), QStringLiteral("tap"));
  emit message(tr("%1 BPM ± %2 from %3 taps")
                   .arg(tempo->bpm.value, 0, 'f', 2)
                   .arg(tempo->uncertaintyBpm, 0, 'f', 2)
                   .arg(tempo->taps),
               false);
}

} // namespace tuvvo
