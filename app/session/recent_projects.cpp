#include "session/recent_projects.h"

#include "base/files.h"
#include "base/folder_lock.h"

#include <QFileInfo>
#include <QJsonArray>
#include <QJsonDocument>
#include <QJsonObject>
#include <QStandardPaths>
#include <algorithm>
#include <unistd.h>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

constexpr std::uint64_t kMostListBytes = 1u << 20;
constexpr std::size_t kMost = 20;
constexpr const char *kSave = "project.json", *kAutosave = "autosave.json";

QDateTime changedAt(const fs::path& folder) {
  QDateTime latest;
  for (const char* name : {kSave, kAutosave}) {
    const QFileInfo info(QString::fromStdString((folder / name).string()));
    if (info.exists() && (!latest.isValid() || info.lastModified() > latest))
      latest = info.lastModified();
  }
  return latest;
}

} // namespace

RecentProjects::RecentProjects() : m_file(home().parent_path() / "recent.json") { read(); }

fs::path RecentProjects::home() {
  return (QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
          QStringLiteral("/tuvvo/projects"))
      .toStdString();
}

void RecentProjects::read() {
  m_folders.clear();
  std::error_code code;
  if (!fs::exists(m_file, code)) return;
  const auto bytes = readFile(m_file, kMostListBytes);
  const auto document =
      bytes ? QJsonDocument::fromJson(QByteArray::fromStdString(*bytes)) : QJsonDocument();
  m_readable = document.isObject();
  for (const auto& one : document.object()[QLatin1String("projects")].toArray())
    if (const QString path = one.toString(); !path.isEmpty() && m_folders.size() < kMost)
      m_folders.emplace_back(path.toStdString());
}

std::vector<RecentProjects::Entry> RecentProjects::list() const {
  std::vector<fs::path> all = m_folders;
  std::error_code code;
  for (fs::directory_iterator each(home(), code), end; !code && each != end; each.increment(code))
    if (each->path().extension() == ".tuvvo" &&
        std::find(all.begin(), all.end(), each->path()) == all.end())
      all.push_back(each->path());
  std::vector<Entry> out;
  for (const auto& folder : all) {
    const QDateTime when = changedAt(folder);
    if (when.isValid())
      out.push_back({folder, QString::fromStdString(folder.stem().string()), when,
                     fs::exists(folder / kAutosave, code)});
  }
  std::stable_sort(out.begin(), out.end(),
                   [](const Entry& a, const Entry& b) { return a.when > b.when; });
  if (out.size() > kMost) out.resize(kMost);
  return out;
}

QString RecentProjects::note(const fs::path& folder) {
  read(); // another window may have opened others meanwhile
  if (!m_folders.empty() && m_folders.front() == folder) return {};
  std::erase(m_folders, folder);
  m_folders.insert(m_folders.begin(), folder);
  if (m_folders.size() > kMost) m_folders.resize(kMost);
  if (!m_readable) return {};
  QJsonArray projects;
  for (const auto& path : m_folders) projects << QString::fromStdString(path.string());
  const QJsonObject json{{"format", "tuvvo recent"}, {"projects", projects}};
  auto made = makeFolder(m_file.parent_path());
  if (made) made = writeFileAtomically(m_file, QJsonDocument(json).toJson().toStdString());
  return made ? QString() : QString::fromStdString(made.error().text());
}

void RecentProjects::removeEmpty() {
  std::error_code code;
  for (fs::directory_iterator each(home(), code), end; !code && each != end; each.increment(code)) {
    if (each->path().extension() != ".tuvvo") continue;
    const auto taken = FolderLock::take(each->path());
    if (taken.state != FolderLock::State::Held) continue;
    const bool empty = std::distance(fs::directory_iterator(each->path(), code), {}) <= 1;
    const fs::path folder = each->path();
    if (empty) { // nothing but our lock
      fs::remove(folder / "lock", code);
      (void)::rmdir(folder.c_str());
    }
  }
}

} // namespace tuvvo
