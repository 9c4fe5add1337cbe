#include "audio/decode.h"
#include "model/edits.h"
#include "session/session.h"

#include <QDir>
#include <QStandardPaths>

namespace tuvvo {

namespace {

constexpr int kMostWatched = 1500; // folders; the kernel's watches are not ours alone
constexpr int kRescanMs = 1500;    // after the last change, so that a copy in one go is one round
constexpr int kRoundMs = 120'000;  // for folders that nobody tells us about

std::filesystem::path crateHome() {
  return (QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
          QStringLiteral("/tuvvo/crate"))
      .toStdString();
}

} // namespace

void Session::openCrate(const std::filesystem::path& folder) {
  m_scanner.reset();
  m_crate.reset(); // before it is opened again
  takeCrate(folder, Crate::open(folder));
}

void Session::prepareCrate() {
  if (m_crateTried || m_crateOpening.valid()) return;
  m_crateOpening = std::async(std::launch::async, [this, folder = crateHome()] {
    auto opened = Crate::open(folder);
    later([this] { (void)crate(); }); // and its folders are looked through
    return opened;
  });
}

void Session::takeCrate(const std::filesystem::path& folder, Result<Crate::Opened> opened) {
  m_crateTried = true;
  m_crateFolder = folder;
  if (!opened) {
    emit message(QString::fromStdString(opened.error().text()), true);
    return;
  }
  Crate::Opened got = std::move(opened).value();
  m_crate = std::move(got.crate);
  m_scanner = std::make_unique<Scanner>(*m_crate);
  for (const auto& warning : got.warnings) emit message(QString::fromStdString(warning), true);
  if (m_crateTimer.isActive()) return; // opened again: everything is connected
  connect(&m_crateTimer, &QTimer::timeout, this, &Session::pollCrate);
  m_crateTimer.start(200);
  connect(&m_provenanceTimer, &QTimer::timeout, this, [this] {
    if (!m_crate) return;
    if (auto written = m_crate->writeProvenance(); !written)
      emit message(QString::fromStdString(written.error().text()), true);
  });
  m_provenanceTimer.start(2000);
  m_rescanTimer.setSingleShot(true);
  connect(&m_rescanTimer, &QTimer::timeout, this, &Session::scanNow);
  connect(&m_watcher, &QFileSystemWatcher::directoryChanged, this,
          [this] { m_rescanTimer.start(kRescanMs); });
  scanNow();
}

Crate* Session::crate() {
  if (m_crateOpening.valid())
    takeCrate(crateHome(), m_crateOpening.get());
  else if (!m_crateTried)
    openCrate(crateHome());
  return m_crate.get();
}

void Session::scanNow() {
  if (!m_crate) return;
  const auto folders = m_crate->folders();
  if (!folders || folders->empty()) return;
  m_scanner->scan({folders->begin(), folders->end()});
  m_roundOpen = true;
  m_rescanTimer.start(kRoundMs);
  emit scanMoved();
}

void Session::watchFolders() {
  const QStringList before = m_watcher.directories();
  if (!before.isEmpty()) m_watcher.removePaths(before);
  QStringList all;
  for (const auto& folder : m_scanner->walked()) {
    if (all.size() == kMostWatched) break;
    all << QString::fromStdString(folder.string());
  }
  if (!all.isEmpty()) m_watcher.addPaths(all);
}

void Session::addFolder(const QString& folder) {
  if (!crate()) return;
  const QString whole = QDir(folder).canonicalPath();
  if (whole.isEmpty()) {
    emit message(tr("%1: there is no such folder.").arg(folder), true);
    return;
  }
  if (auto added = m_crate->addFolder(whole.toStdString()); !added)
    emit message(QString::fromStdString(added.error().text()), true);
  scanNow();
  emit crateChanged();
}

void Session::removeFolder(const QString& folder) {
  if (!m_crate) return;
  m_scanner->cancel();
  if (auto removed = m_crate->removeFolder(folder.toStdString()); !removed)
    emit message(QString::fromStdString(removed.error().text()), true);
  scanNow();
  emit crateChanged();
}

void Session::pollCrate() {
  if (!m_crate) return;
  if (m_crate->damaged()) {
    const auto folder = m_crateFolder;
    openCrate(folder);
    scanNow();
    emit crateChanged();
    return;
  }
  const auto progress = m_scanner->progress();
  const bool working = progress.working();
  if (m_roundOpen) emit scanMoved();
  if (m_roundOpen && !working) {
    m_roundOpen = false;
    watchFolders();
    if (progress.settling > 0) m_rescanTimer.start(2 * kRescanMs);
  }
  if (m_crate->changes() == m_crateSeen) return;
  m_crateSeen = m_crate->changes();
  emit crateChanged();
}

void Session::getFromService(const SampleService& service, std::size_t place) {
  if (!crate()) return;
  const auto folder = m_crateFolder.parent_path() / "got";
  auto path = service.get(place, folder);
  if (!path) {
    emit message(QString::fromStdString(path.error().text()), true);
    return;
  }
  const ServiceItem item = service.items()[place];
  JobContext job;
  // The licence is recorded before anything is heard, by the sound itself.
  const auto hash = soundHashOf(*path, job);
  keepInCrate(folder, hash ? *hash : std::string(), {0, item.tags, item.provenance, {}});
  emit message(
      tr("%1 is in your crate now, with its licence.").arg(QString::fromStdString(item.title)),
      false);
}

void Session::keepInCrate(const std::filesystem::path& folder, const std::string& hash,
                          const Marks& marks) {
  if (!crate()) return;
  if (!hash.empty()) {
    Marks all = marksOf(hash);
    all.provenance = marks.provenance;
    if (marks.corrections != Corrections{}) all.corrections = marks.corrections;
    for (const auto& tag : marks.tags)
      if (std::find(all.tags.begin(), all.tags.end(), tag) == all.tags.end())
        all.tags.push_back(tag);
    if (auto set = m_crate->setMarks(hash, all); !set)
      emit message(QString::fromStdString(set.error().text()), true);
  }
  addFolder(QString::fromStdString(folder.string()));
}

Marks Session::marksOf(const std::string& hash) {
  if (!crate()) return {};
  auto marks = m_crate->marksOf(hash);
  return marks ? *marks : Marks{};
}

void Session::markSound(const QString& name, const std::string& hash, const Marks& marks,
                        const QString& merge) {
  if (hash.empty()) return;
  Marks before = marksOf(hash);
  for (const auto& source : project().sources) // the beat has the last word on its own
    if (source->hash == hash) {
      before.corrections = source->corrections;
      before.provenance = source->provenance;
    }
  if (before == marks) return;
  // The same sound in the beat takes what is said of it; the step keeps both.
  Project next = project();
  for (const auto& source : project().sources)
    if (source->hash == hash)
      next = withSourceChanged(std::move(next), source->id, [&](Source& s) {
        if (marks.corrections != before.corrections) s.corrections = marks.corrections;
        if (marks.provenance != before.provenance) s.provenance = marks.provenance;
      });
  if (m_crate)
    if (auto set = m_crate->setMarks(hash, marks); !set) {
      emit message(QString::fromStdString(set.error().text()), true);
      return;
    }
  m_crateSteps.erase(m_crateSteps.upper_bound(m_history.place()), m_crateSteps.end());
  m_history.apply(name.toStdString(), std::move(next), merge.toStdString());
  // A step that was merged into the last one goes back to before both.
  const auto [step, fresh] =
      m_crateSteps.try_emplace(m_history.place(), CrateStep{hash, before, {}});
  step->second.after = marks;
  rememberWritten();
  documentChanged();
  emit crateChanged();
}

/// Going from one place of the history to another does or undoes what the steps between said.
void Session::takeCrateSteps(std::size_t from, std::size_t to) {
  const auto put = [this](const std::string& hash, const Marks& marks) {
    if (!m_crate) return;
    if (auto set = m_crate->setMarks(hash, marks); !set)
      emit message(QString::fromStdString(set.error().text()), true);
  };
  for (std::size_t place = from; place > to; --place)
    if (const auto step = m_crateSteps.find(place); step != m_crateSteps.end())
      put(step->second.hash, step->second.before);
  for (std::size_t place = from + 1; place <= to; ++place)
    if (const auto step = m_crateSteps.find(place); step != m_crateSteps.end())
      put(step->second.hash, step->second.after);
}

void Session::rememberWritten() {
  for (const auto& source : project().sources)
    if (!source->kit) m_written[source->hash] = {source->corrections, source->provenance};
}

/// What was said of the beat's sources is kept by their content.
void Session::writeThrough() {
  for (const auto& source : project().sources) {
    if (source->kit) continue;
    const std::pair now{source->corrections, source->provenance};
    const auto known = m_written.find(source->hash);
    if (known == m_written.end() || known->second == now) {
      m_written[source->hash] = now;
      continue;
    }
    known->second = now;
    if (!crate()) continue;
    Marks marks = marksOf(source->hash);
    marks.corrections = source->corrections;
    marks.provenance = source->provenance;
    if (auto set = m_crate->setMarks(source->hash, marks); !set)
      emit message(QString::fromStdString(set.error().text()), true);
  }
}

void Session::keep(CrateId id) {
  if (!crate()) return;
  auto item = m_crate->item(id);
  if (!item || !*item) return;
  const Source known = (*item)->source;
  for (const auto& source : project().sources)
    if (source->hash == known.hash) {
      selectSource(source->id);
      emit message(tr("%1 is in this beat already.").arg(QString::fromStdString(known.name)),
                   false);
      return;
    }
  startJob(tr("Taking %1 into the beat").arg(QString::fromStdString(known.name)),
           [this, known, paths = (*item)->paths](JobContext& job) {
             std::string said;
             for (const auto& path : paths) {
               auto decoded = decodeFile(path, job);
               if (job.cancelled()) return;
               if (!decoded) {
                 said = decoded.error().text();
                 continue;
               }
               auto source = std::make_shared<Source>(known);
               source->sound = decoded->sound;
               source->hash = source->sound->hash();
               if (!source->heard || source->hash != known.hash)
                 source->heard = listen(*source->sound, job);
               later([this, source] {
                 Id added = 0;
                 edit(tr("Keep %1").arg(QString::fromStdString(source->name)),
                      withSource(project(), *source, &added));
                 selectSource(added);
               });
               return;
             }
             later([this, said] { emit message(QString::fromStdString(said), true); });
           });
}

} // namespace tuvvo
