// What is open: new beats, the demo, projects; who else has them open; what was left unsaved.
#include "formats/shipped.h"
#include "listen/listen.h"
#include "model/edits.h"
#include "session/session.h"

#include <QDateTime>
#include <QFileInfo>
#include <QLocale>
#include <algorithm>
#include <unistd.h>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

QString nameOf(const fs::path& folder) { return QString::fromStdString(folder.stem().string()); }

/// "since 21:14, by process 4242 on quay"
QString whoHas(const std::optional<LockHolder>& holder) {
  if (!holder) return Session::tr("in another window");
  return Session::tr("in another window (since %1, process %2 on %3)")
      .arg(QLocale().toString(QDateTime::fromSecsSinceEpoch(holder->since), QLocale::ShortFormat))
      .arg(holder->process)
      .arg(QString::fromStdString(shown(holder->host)));
}

} // namespace

/// Gives the folder of what was open free; one in which nothing was ever kept goes.
void Session::leaveFolder() {
  const bool ours = m_lock != nullptr;
  m_lock.reset();
  // Only an empty folder can be removed in this way.
  if (ours && !m_folder.empty()) (void)::rmdir(m_folder.c_str());
}

void Session::resetTo(Project project, const fs::path& folder, SavedState state) {
  stop();
  if (m_auditionSource) endAudition();
  m_history = History(std::move(project));
  m_savedStep = m_autosavedStep = m_history.current();
  m_folder = folder;
  m_state = std::move(state);
  m_readOnly = false;
  m_selection = {};
  m_measure = {};
  m_taps.reset();
  m_crateSteps.clear();
  m_written.clear();
  rememberWritten();
  documentChanged();
}

/// Into a folder of its own, so that it cannot be lost.
void Session::resetToFresh(Project project, const QString& name) {
  auto folder = makeFreshFolder(RecentProjects::home(), name.toStdString(), ".tuvvo");
  leaveFolder();
  if (!folder) {
    emit message(QString::fromStdString(folder.error().text()), true);
    return resetTo(std::move(project), {}, {});
  }
  const fs::path path = std::move(folder).value();
  m_lock = FolderLock::take(path).lock;
  resetTo(std::move(project), path, {});
}

void Session::startNew() {
  autosaveNow();
  JobContext job;
  NewProject fresh = newProject(dataFolder(), job);
  resetToFresh(std::move(fresh.project), tr("Untitled"));
  for (const auto& warning : fresh.warnings) emit message(QString::fromStdString(warning), true);
}

void Session::startDemo() {
  autosaveNow();
  JobContext job;
  auto demo = shippedDemo(dataFolder(), job);
  if (!demo) {
    emit message(QString::fromStdString(demo.error().text()), true);
    return;
  }
  resetToFresh(std::move(demo).value(), QStringLiteral("Salt Quay"));
}

/// The latest work that was not saved and that no other window has open.
std::optional<RecentProjects::Entry> Session::leftUnsaved() const {
  for (const auto& entry : m_recent.list())
    if (entry.unsaved && entry.folder != m_folder &&
        FolderLock::take(entry.folder).state != FolderLock::State::Busy)
      return entry;
  return std::nullopt;
}

void Session::startWhereYouLeft() {
  RecentProjects::removeEmpty();
  startNew();
  if (const auto left = leftUnsaved()) open(QString::fromStdString(left->folder.string()));
}

void Session::offerUnsaved() {
  if (const auto left = leftUnsaved())
    emit unsavedFound(left->name, QString::fromStdString(left->folder.string()));
}

void Session::open(const QString& path) {
  const fs::path folder = path.toStdString();
  if (folder == m_folder && !m_readOnly) {
    emit message(tr("%1 is open already.").arg(nameOf(folder)), false);
    return;
  }
  std::error_code code;
  auto lock = std::make_shared<FolderLock::Taken>();
  if (fs::is_directory(folder, code)) *lock = FolderLock::take(folder);
  startJob(tr("Opening %1").arg(nameOf(folder)), [this, folder, lock](JobContext& job) {
    auto opened = openProject(folder, job);
    if (!opened) {
      later([this, lock, said = opened.error().text()] {
        emit message(QString::fromStdString(said), true);
      });
      return;
    }
    later([this, folder, lock, value = std::make_shared<OpenedProject>(std::move(opened).value())] {
      takeOpened(folder, std::move(*value), std::move(*lock));
    });
  });
}

void Session::takeOpened(const fs::path& folder, OpenedProject opened, FolderLock::Taken lock) {
  autosaveNow();
  leaveFolder();
  m_lock = std::move(lock.lock);
  resetTo(std::move(opened.project), folder, std::move(opened.state));
  m_readOnly = opened.readOnly || lock.state != FolderLock::State::Held;
  if (const QString trouble = m_recent.note(folder); !trouble.isEmpty())
    emit message(trouble, true);
  if (opened.recovered) {
    m_savedStep = nullptr; // what is open is later than what was saved
    emit message(tr("%1 is open as you left it. It had not been saved; the saved state is in the "
                    "project's folder.")
                     .arg(nameOf(folder)),
                 false);
  }
  for (const auto& warning : opened.warnings) emit message(QString::fromStdString(warning), true);
  if (lock.state == FolderLock::State::Busy)
    emit message(tr("%1 is open %2. Here it is open for looking and listening; what you change is "
                    "kept in a copy.")
                     .arg(nameOf(folder), whoHas(lock.holder)),
                 true);
  else if (lock.state == FolderLock::State::Impossible)
    emit message(tr("%1 may not be written to. It is open for looking and listening; what you "
                    "change is kept in a copy.")
                     .arg(nameOf(folder)),
                 true);
  emit changed(); // whether it may be saved
  hearUnheard();
}

/// What was never listened to, or whose hearing was lost, is heard now.
void Session::hearUnheard() {
  for (const auto& source : project().sources)
    if (source->sound && !source->heard && !source->kit)
      m_pool.run([this, id = source->id, sound = source->sound](JobContext& context) {
        auto heard = listen(*sound, context);
        later([this, id, heard = std::move(heard)] {
          edit(tr("Listen"), withSourceChanged(project(), id, [&](Source& s) { s.heard = heard; }),
               QStringLiteral("listen"));
        });
      });
}

} // namespace tuvvo
