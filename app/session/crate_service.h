// The crate of this person: its folders, looked through in the background, and what is said of its
// sounds.
#pragma once

#include "crate/scanner.h"
#include "crate/service.h"
#include "session/document.h"
#include "session/job_service.h"

#include <QFileSystemWatcher>
#include <QTimer>
#include <future>

namespace tuvvo {

class CrateService : public Service {
  Q_OBJECT
public:
  CrateService(Document& document, JobService& jobs);
  ~CrateService() override;

  /// Opens the crate of a folder, for tests; else the user's is opened at the first call of
  /// crate().
  void open(const std::filesystem::path& folder);
  /// Opens this user's crate beside the interface; whoever asks for it meanwhile waits.
  void prepare();
  /// Null when it cannot be opened; a message has said why.
  [[nodiscard]] Crate* crate();
  /// Null until the crate is open.
  [[nodiscard]] Scanner* scanner() { return m_scanner.get(); }

  /// Watches a folder and hears what is in it.
  void addFolder(const QString& folder);
  void removeFolder(const QString& folder);
  void scanNow();
  /// Whether what changes in its folders is noticed by itself.
  [[nodiscard]] bool watches() const { return !m_watcher.directories().isEmpty(); }
  /// Copies an item of the simulated service into the crate with its licence.
  void getFromService(const SampleService& service, std::size_t item);
  /// Watches the folder of a sound that has come, and notes by its content what is known of it.
  void keepSound(const std::filesystem::path& folder, const std::string& hash, const Marks& marks);

  /// Marks of a sound, kept by content; can be undone like any edit.
  void markSound(const QString& name, const std::string& hash, const Marks& marks,
                 const QString& merge = {});
  [[nodiscard]] Marks marksOf(const std::string& hash);
  /// Notes which sounds a project uses.
  void noteUses(const std::filesystem::path& projectFolder);

signals:
  /// The crate or what is said of its sounds.
  void changed();
  void scanMoved();

private:
  struct Step {
    std::string hash;
    Marks before, after;
  };

  void take(const std::filesystem::path& folder, Result<Crate::Opened> opened);
  void poll();
  void watchFolders();
  void setMarks(const std::string& hash, const Marks& marks);
  void takeSteps(std::size_t from, std::size_t to);
  void writeThrough();
  void rememberWritten(const Project& project);
  template <class T> void sayIfWrong(const Result<T>& result) {
    if (!result) emit message(QString::fromStdString(result.error().text()), true);
  }

  Document& m_document;
  JobService& m_jobs;
  std::unique_ptr<Crate> m_crate;
  std::unique_ptr<Scanner> m_scanner;           ///< after the crate: ends before it
  std::future<Result<Crate::Opened>> m_opening; ///< while it is opened
  bool m_tried = false, m_roundOpen = false;
  std::uint64_t m_seen = 0;
  std::filesystem::path m_folder;
  QFileSystemWatcher m_watcher;
  QTimer m_pollTimer, m_rescanTimer, m_provenanceTimer;
  std::map<std::size_t, Step> m_steps;                                 ///< by place in the history
  std::map<std::string, std::pair<Corrections, Provenance>> m_written; ///< what the crate was told
};

} // namespace tuvvo
