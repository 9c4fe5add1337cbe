#include "session/crate_service.h"

#include "audio/decode.h"
#include "model/edits.h"

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

CrateService::CrateService(Document& document, JobService& jobs)
    : m_document(document), m_jobs(jobs) {
  connect(&document, &Document::aboutToStep, this,
          [this](std::size_t place) { m_steps.erase(m_steps.upper_bound(place), m_steps.end()); });
  connect(&document, &Document::aboutToGo, this, &CrateService::takeSteps);
  connect(&document, &Document::replaced, this, [this] {
    m_steps.clear();
    m_written.clear();
    rememberWritten(m_document.project());
  });
  connect(&document, &Document::changed, this, &CrateService::writeThrough);
}

CrateService::~CrateService() {
  m_scanner.reset();
  if (m_crate) (void)m_crate->writeProvenance();
}

void CrateService::open(const std::filesystem::path& folder) {
  m_scanner.reset();
  m_crate.reset(); // before it is opened again
  take(folder, Crate::open(folder));
}

void CrateService::prepare() {
  if (m_tried || m_opening.valid()) return;
  m_opening = std::async(std::launch::async, [this, folder = crateHome()] {
    auto opened = Crate::open(folder);
    m_jobs.later([this] { (void)crate(); }); // and its folders are looked through
    return opened;
  });
}

void CrateService::take(const std::filesystem::path& folder, Result<Crate::Opened> opened) {
  m_tried = true;
  m_folder = folder;
  if (!opened) {
    emit message(QString::fromStdString(opened.error().text()), true);
    return;
  }
  Crate::Opened got = std::move(opened).value();
  m_crate = std::move(got.crate);
  m_scanner = std::make_unique<Scanner>(*m_crate);
  for (const auto& warning : got.warnings) emit message(QString::fromStdString(warning), true);
  if (m_pollTimer.isActive()) return; // opened again: everything is connected
  connect(&m_pollTimer, &QTimer::timeout, this, &CrateService::poll);
  m_pollTimer.start(200);
  connect(&m_provenanceTimer, &QTimer::timeout, this, [this] {
    if (m_crate) sayIfWrong(m_crate->writeProvenance());
  });
  m_provenanceTimer.start(2000);
  m_rescanTimer.setSingleShot(true);
  connect(&m_rescanTimer, &QTimer::timeout, this, &CrateService::scanNow);
  connect(&m_watcher, &QFileSystemWatcher::directoryChanged, this,
          [this] { m_rescanTimer.start(kRescanMs); });
  scanNow();
}

Crate* CrateService::crate() {
  if (m_opening.valid())
    take(crateHome(), m_opening.get());
  else if (!m_tried)
    open(crateHome());
  return m_crate.get();
}

void CrateService::scanNow() {
  if (!m_crate) return;
  const auto folders = m_crate->folders();
  if (!folders || folders->empty()) return;
  m_scanner->scan({folders->begin(), folders->end()});
  m_roundOpen = true;
  m_rescanTimer.start(kRoundMs);
  emit scanMoved();
}

void CrateService::watchFolders() {
  const QStringList before = m_watcher.directories();
  if (!before.isEmpty()) m_watcher.removePaths(before);
  QStringList all;
  for (const auto& folder : m_scanner->walked()) {
    if (all.size() == kMostWatched) break;
    all << QString::fromStdString(folder.string());
  }
  if (!all.isEmpty()) m_watcher.addPaths(all);
}

void CrateService::addFolder(const QString& folder) {
  if (!crate()) return;
  const QString whole = QDir(folder).canonicalPath();
  if (whole.isEmpty()) {
    emit message(tr("%1: there is no such folder.").arg(folder), true);
    return;
  }
  sayIfWrong(m_crate->addFolder(whole.toStdString()));
  scanNow();
  emit changed();
}

void CrateService::removeFolder(const QString& folder) {
  if (!m_crate) return;
  m_scanner->cancel();
  sayIfWrong(m_crate->removeFolder(folder.toStdString()));
  scanNow();
  emit changed();
}

void CrateService::poll() {
  if (!m_crate) return;
  if (m_crate->damaged()) {
    const auto folder = m_folder;
    open(folder);
    scanNow();
    emit changed();
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
  if (m_crate->changes() == m_seen) return;
  m_seen = m_crate->changes();
  emit changed();
}

void CrateService::getFromService(const SampleService& service, std::size_t place) {
  if (!crate()) return;
  const auto folder = m_folder.parent_path() / "got";
  const ServiceItem item = service.items()[place];
  const QString title = QString::fromStdString(item.title);
  m_jobs.start(tr("Getting %1").arg(title),
               [this, service, place, folder, item, title](JobContext& job) {
                 auto path = service.get(place, folder);
                 // The licence is recorded before anything is heard, by the sound itself.
                 std::string hash;
                 if (path)
                   if (auto found = soundHashOf(*path, job)) hash = *found;
                 m_jobs.later([this, path = std::move(path), folder, item, title, hash] {
                   if (!path) return sayIfWrong(path);
                   keepSound(folder, hash, {0, item.tags, item.provenance, {}});
                   emit message(tr("%1 is in your crate now, with its licence.").arg(title), false);
                 });
               });
}

void CrateService::keepSound(const std::filesystem::path& folder, const std::string& hash,
                             const Marks& marks) {
  if (!crate()) return;
  if (!hash.empty()) {
    Marks all = marksOf(hash);
    all.provenance = marks.provenance;
    if (marks.corrections != Corrections{}) all.corrections = marks.corrections;
    for (const auto& tag : marks.tags)
      if (std::find(all.tags.begin(), all.tags.end(), tag) == all.tags.end())
        all.tags.push_back(tag);
    sayIfWrong(m_crate->setMarks(hash, all));
  }
  addFolder(QString::fromStdString(folder.string()));
}

Marks CrateService::marksOf(const std::string& hash) {
  if (!crate()) return {};
  auto marks = m_crate->marksOf(hash);
  return marks ? *marks : Marks{};
}

void CrateService::markSound(const QString& name, const std::string& hash, const Marks& marks,
                             const QString& merge) {
  if (hash.empty()) return;
  Marks before = marksOf(hash);
  for (const auto& source : m_document.project().sources) // the beat has the last word on its own
    if (source->hash == hash) {
      before.corrections = source->corrections;
      before.provenance = source->provenance;
    }
  if (before == marks) return;
  // The same sound in the beat takes what is said of it; the step keeps both.
  Project next = m_document.project();
  for (const auto& source : m_document.project().sources)
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
  rememberWritten(next);
  const Step told{hash, before, marks}; // what was handed in may be gone when all have been told
  m_document.step(name, std::move(next), merge);
  // A step that was merged into the last one goes back to before both.
  m_steps.try_emplace(m_document.history().place(), told).first->second.after = told.after;
  emit changed();
}

/// Going from one place of the history to another does or undoes what the steps between said.
void CrateService::takeSteps(std::size_t from, std::size_t to) {
  const auto put = [this](const std::string& hash, const Marks& marks) {
    if (m_crate) sayIfWrong(m_crate->setMarks(hash, marks));
  };
  for (std::size_t place = from; place > to; --place)
    if (const auto step = m_steps.find(place); step != m_steps.end())
      put(step->second.hash, step->second.before);
  for (std::size_t place = from + 1; place <= to; ++place)
    if (const auto step = m_steps.find(place); step != m_steps.end())
      put(step->second.hash, step->second.after);
}

void CrateService::rememberWritten(const Project& project) {
  for (const auto& source : project.sources)
    if (!source->kit) m_written[source->hash] = {source->corrections, source->provenance};
}

/// What was said of the beat's sources is kept by their content.
void CrateService::writeThrough() {
  for (const auto& source : m_document.project().sources) {
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
    sayIfWrong(m_crate->setMarks(source->hash, marks));
  }
}

void CrateService::noteUses(const std::filesystem::path& projectFolder) {
  if (!crate()) return;
  std::vector<std::string> hashes;
  for (const auto& source : m_document.project().sources)
    if (!source->kit) hashes.push_back(source->hash);
  sayIfWrong(m_crate->setUses(projectFolder.string(), m_document.project().name, hashes));
}

} // namespace tuvvo
