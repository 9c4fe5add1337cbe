// The project's folder: opening, saving, autosaving; who else has it open; what was left unsaved.
#pragma once

#include "base/files.h"
#include "base/folder_lock.h"
#include "formats/bundle.h"
#include "formats/shipped.h"
#include "session/crate_service.h"
#include "session/recent_projects.h"
#include "session/saver.h"

#include <future>

namespace tuvvo {

class Files : public Service {
  Q_OBJECT
public:
  Files(Document& document, JobService& jobs, CrateService& crate);
  ~Files() override;

  // ---- what is open (files_open.cpp) ----
  void startNew();
  /// Reads the demonstration in the background; it takes the place of what is open when it is
  /// there.
  void startDemo();
  /// Opens what was open last where that was not saved; else a new beat.
  void startWhereYouLeft();
  /// Says which work was not saved, where something else is opened.
  void offerUnsaved();
  /// Reads a project in the background; it takes the place of what is open when it is there. One
  /// that is open in another window is opened for looking.
  void open(const QString& folder);
  [[nodiscard]] const RecentProjects& recent() const { return m_recent; }

  // ---- saving (files.cpp), in the background ----
  void save();
  /// @param replace  whether a project that is there may be written over (its states are kept in
  ///                 its history all the same)
  void saveAs(const QString& folder, Replace replace = Replace::No);
  /// Whether another project lies where one is to be saved.
  [[nodiscard]] bool holdsAnother(const QString& folder) const;
  [[nodiscard]] const std::filesystem::path& folder() const { return m_folder; }
  [[nodiscard]] bool unsaved() const { return m_savedStep != m_document.projectPtr(); }
  [[nodiscard]] bool readOnly() const { return m_readOnly; }
  /// Autosaves at once and waits for it; when the window closes.
  void autosaveNow();
  /// Waits until what was asked for is saved.
  void wait();

signals:
  /// Whether and where it is saved.
  void changed();
  /// A project was read and has taken its place.
  void opened();
  /// There is work that was not saved, where something else was asked for.
  void unsavedFound(const QString& name, const QString& folder);

private:
  void autosave();
  void readKit();
  void keepOpen();
  void moveToCopy();
  void saveTo(const std::filesystem::path& folder);
  void beginSave();
  void takeSaved(std::optional<Saver::Saved> saved);
  void takeSave(const Saver::Saved& saved);
  void replaceBy(Project project, const std::filesystem::path& folder, SavedState state);
  void replaceInFreshFolder(Project project, const QString& name);
  void takeOpened(const std::filesystem::path& folder, OpenedProject read, FolderLock::Taken lock);
  void leaveFolder();
  void noteRecent(const std::filesystem::path& folder);
  [[nodiscard]] std::optional<RecentProjects::Entry> leftUnsaved() const;

  /// A save that was asked for: it is of the project as it was then.
  struct Wish {
    ProjectPtr value;
    std::filesystem::path folder;
    std::unique_ptr<FolderLock> lock; ///< of another folder than the one that is open
    bool elsewhere = false;
  };

  Document& m_document;
  JobService& m_jobs;
  CrateService& m_crate;
  ProjectPtr m_savedStep, m_autosavedStep;
  std::filesystem::path m_folder;
  SavedState m_state; ///< of the folder
  bool m_readOnly = false;
  std::unique_ptr<FolderLock> m_lock; ///< of the folder; null where it is only looked at
  RecentProjects m_recent;
  QTimer m_autosaveTimer;
  std::optional<Wish> m_wish;
  std::shared_future<NewProject> m_fresh; ///< what a new beat begins as: its drums are read once
  Saver m_saver;                          ///< last: ends first
};

} // namespace tuvvo
