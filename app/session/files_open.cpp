// What is open: new beats, the demo, projects; who else has them open; what was left unsaved.
#include "session/files.h"

#include <QDateTime>
#include <QFileInfo>
#include <QLocale>
#include <algorithm>
#include <chrono>
#include <unistd.h>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

QString nameOf(const fs::path& folder) { return QString::fromStdString(folder.stem().string()); }

/// "since 21:14, by process 4242 on quay"
QString whoHas(const std::optional<LockHolder>& holder) {
  if (!holder) return Files::tr("in another window");
  return Files::tr("in another window (since %1, process %2 on %3)")
      .arg(QLocale().toString(QDateTime::fromSecsSinceEpoch(holder->since), QLocale::ShortFormat))
      .arg(holder->process)
      .arg(QString::fromStdString(shown(holder->host)));
}

} // namespace

/// Gives the folder of what was open free; one in which nothing was ever kept goes.
void Files::leaveFolder() {
  const bool ours = m_lock != nullptr;
  m_lock.reset();
  // Only an empty folder can be removed in this way.
  if (ours && !m_folder.empty()) (void)::rmdir(m_folder.c_str());
}

void Files::replaceBy(Project project, const fs::path& folder, SavedState state) {
  m_folder = folder;
  m_state = std::move(state);
  m_readOnly = false;
  m_document.replace(std::move(project));
}

/// Into a folder of its own, so that it cannot be lost.
void Files::replaceInFreshFolder(Project project, const QString& name) {
  auto folder = makeFreshFolder(RecentProjects::home(), name.toStdString(), ".tuvvo");
  leaveFolder();
  if (!folder) {
    emit message(QString::fromStdString(folder.error().text()), true);
    return replaceBy(std::move(project), {}, {});
  }
  const fs::path path = std::move(folder).value();
  m_lock = FolderLock::take(path).lock;
  replaceBy(std::move(project), path, {});
}

/// What is open is kept as it is.
void Files::keepOpen() {
  m_document.endWork();
  autosaveNow();
}

/// The drums of new beats, while the window is still being made.
void Files::readKit() {
  auto fresh = std::make_shared<std::promise<NewProject>>();
  m_fresh = fresh->get_future();
  m_jobs.run([fresh](JobContext& job) { fresh->set_value(newProject(dataFolder(), job)); },
             [fresh](const Error& error) {
               fresh->set_value({{}, {error.text()}}); // a beat without drums
             });
}

void Files::startNew() {
  keepOpen();
  // Nobody waits for a thread that gives way to others.
  JobContext job;
  const bool ready = m_fresh.wait_for(std::chrono::seconds(0)) == std::future_status::ready;
  const NewProject fresh = ready ? m_fresh.get() : newProject(dataFolder(), job);
  replaceInFreshFolder(fresh.project, tr("Untitled"));
  for (const auto& warning : fresh.warnings) emit message(QString::fromStdString(warning), true);
}

void Files::startDemo() {
  m_jobs.start(tr("Opening the demo"), [this](JobContext& job) {
    auto demo = std::make_shared<Result<Project>>(shippedDemo(dataFolder(), job));
    m_jobs.later([this, demo] {
      if (!*demo) {
        emit message(QString::fromStdString(demo->error().text()), true);
        return;
      }
      keepOpen();
      replaceInFreshFolder(std::move(*demo).value(), QStringLiteral("Salt Quay"));
      emit opened();
    });
  });
}

/// The latest work that was not saved and that no other window has open.
std::optional<RecentProjects::Entry> Files::leftUnsaved() const {
  for (const auto& entry : m_recent.list())
    if (entry.unsaved && entry.folder != m_folder &&
        FolderLock::take(entry.folder).state != FolderLock::State::Busy)
      return entry;
  return std::nullopt;
}

void Files::startWhereYouLeft() {
  RecentProjects::removeEmpty();
  startNew();
  if (const auto left = leftUnsaved()) open(QString::fromStdString(left->folder.string()));
}

void Files::offerUnsaved() {
  if (const auto left = leftUnsaved())
    emit unsavedFound(left->name, QString::fromStdString(left->folder.string()));
}

void Files::open(const QString& path) {
  const fs::path folder = path.toStdString();
  if (folder == m_folder && !m_readOnly) {
    emit message(tr("%1 is open already.").arg(nameOf(folder)), false);
    return;
  }
  std::error_code code;
  auto lock = std::make_shared<FolderLock::Taken>();
  if (fs::is_directory(folder, code)) *lock = FolderLock::take(folder);
  m_jobs.start(tr("Opening %1").arg(nameOf(folder)), [this, folder, lock](JobContext& job) {
    auto opened = openProject(folder, job);
    if (!opened) {
      m_jobs.later([this, lock, said = opened.error().text()] {
        emit message(QString::fromStdString(said), true);
      });
      return;
    }
    m_jobs.later(
        [this, folder, lock, value = std::make_shared<OpenedProject>(std::move(opened).value())] {
          takeOpened(folder, std::move(*value), std::move(*lock));
        });
  });
}

void Files::takeOpened(const fs::path& folder, OpenedProject read, FolderLock::Taken lock) {
  keepOpen();
  leaveFolder();
  m_lock = std::move(lock.lock);
  replaceBy(std::move(read.project), folder, std::move(read.state));
  m_readOnly = read.readOnly || lock.state != FolderLock::State::Held;
  noteRecent(folder);
  if (read.recovered) {
    m_savedStep = nullptr; // what is open is later than what was saved
    emit message(tr("%1 is open as you left it. It had not been saved; the saved state is in the "
                    "project's folder.")
                     .arg(nameOf(folder)),
                 false);
  }
  for (const auto& warning : read.warnings) emit message(QString::fromStdString(warning), true);
  QString looking;
  if (lock.state == FolderLock::State::Busy)
    looking = tr("%1 is open %2. Here it is open for looking and listening; what you change is "
                 "kept in a copy.")
                  .arg(nameOf(folder), whoHas(lock.holder));
  if (lock.state == FolderLock::State::Impossible)
    looking = tr("%1 may not be written to. It is open for looking and listening; what you "
                 "change is kept in a copy.")
                  .arg(nameOf(folder));
  if (!looking.isEmpty()) emit message(looking, true);
  emit changed(); // whether it may be saved
  emit opened();
}

} // namespace tuvvo
