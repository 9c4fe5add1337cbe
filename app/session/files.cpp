#include "session/files.h"

#include <QFileInfo>

namespace tuvvo {

namespace {
constexpr int kAutosaveMs = 5000;
}

Files::Files(Document& document, JobService& jobs, CrateService& crate)
    : m_document(document), m_jobs(jobs), m_crate(crate), m_savedStep(document.projectPtr()),
      m_autosavedStep(m_savedStep),
      m_saver([this] { m_jobs.later([this] { takeSaved(m_saver.take()); }); }) {
  connect(&document, &Document::replaced, this,
          [this] { m_savedStep = m_autosavedStep = m_document.projectPtr(); });
  connect(&m_autosaveTimer, &QTimer::timeout, this, &Files::autosave);
  m_autosaveTimer.start(kAutosaveMs);
  readKit();
}

Files::~Files() { leaveFolder(); }

void Files::noteRecent(const std::filesystem::path& folder) {
  if (const QString trouble = m_recent.note(folder); !trouble.isEmpty())
    emit message(trouble, true);
}

// ---- saving -------------------------------------------------------------------------------------

void Files::save() {
  if (m_wish) // where it is on its way to, perhaps under another name
    saveTo(std::filesystem::path(m_wish->folder));
  else if (m_readOnly)
    emit message(tr("This project is open for looking only. Save it under another name."), true);
  else
    saveTo(m_folder);
}

bool Files::holdsAnother(const QString& folder) const {
  const std::filesystem::path target = folder.toStdString();
  std::error_code code;
  return target != m_folder && (std::filesystem::exists(target / "project.json", code) ||
                                std::filesystem::exists(target / "autosave.json", code));
}

void Files::saveAs(const QString& folder, Replace replace) {
  QString target = folder;
  if (!target.endsWith(QLatin1String(".tuvvo"))) target += QStringLiteral(".tuvvo");
  if (replace == Replace::No && holdsAnother(target)) {
    emit message(tr("%1: there is a project already. Choose another name.").arg(target), true);
    return;
  }
  Project named = m_document.project();
  named.name = QFileInfo(target).completeBaseName().toStdString();
  m_document.edit(tr("Name the project"), std::move(named));
  saveTo(target.toStdString());
}

/// The folder is taken at once, so that nobody else does; what is written follows.
void Files::saveTo(const std::filesystem::path& folder) {
  if (m_wish && m_wish->folder == folder) { // it is taken already
    m_wish->value = m_document.projectPtr();
    return;
  }
  Wish wish{m_document.projectPtr(), folder, nullptr, folder != m_folder || m_readOnly};
  if (wish.elsewhere) {
    if (auto made = makeFolder(folder); !made) {
      emit message(QString::fromStdString(made.error().text()), true);
      return;
    }
    auto taken = FolderLock::take(folder);
    if (taken.state == FolderLock::State::Busy) {
      emit message(tr("%1 is open in another window. Choose another name.")
                       .arg(QString::fromStdString(folder.string())),
                   true);
      return;
    }
    wish.lock = std::move(taken.lock);
  }
  m_wish = std::move(wish); // one that was not begun yet is of an older state
  if (!m_saver.busy()) beginSave();
}

void Files::beginSave() {
  m_saver.begin(Saver::Kind::Save, m_wish->value, m_wish->folder,
                m_wish->elsewhere ? SavedState{} : m_state);
}

/// What came of a save; an autosave of another folder is nothing to this one.
void Files::takeSaved(std::optional<Saver::Saved> saved) {
  if (!saved) return;
  if (saved->kind == Saver::Kind::Save) return takeSave(*saved);
  if (saved->folder == m_folder) {
    if (!saved->state) {
      emit message(QString::fromStdString(saved->state.error().text()), true);
    } else {
      const bool first = m_state.autosave.empty();
      m_state = std::move(saved->state).value();
      m_autosavedStep = saved->value;
      if (first) noteRecent(m_folder);
    }
  }
  if (m_wish) beginSave();
}

void Files::takeSave(const Saver::Saved& saved) {
  const bool wished = m_wish && m_wish->folder == saved.folder;
  if (!saved.state) {
    emit message(QString::fromStdString(saved.state.error().text()), true);
    if (wished) m_wish.reset();
    if (m_wish) beginSave();
    return;
  }
  if (wished && m_wish->elsewhere) {
    leaveFolder();
    m_lock = std::move(m_wish->lock);
    m_folder = saved.folder;
    m_readOnly = false;
    m_wish->elsewhere = false;
  }
  if (saved.folder == m_folder) {
    m_state = *saved.state;
    m_savedStep = m_autosavedStep = saved.value;
    noteRecent(m_folder);
    m_crate.noteUses(m_folder);
  }
  if (wished && m_wish->value == saved.value) m_wish.reset();
  if (m_wish) return beginSave(); // of a later state, or in another folder
  emit message(tr("Saved in %1").arg(QString::fromStdString(m_folder.string())), false);
  emit changed();
}

/// What is changed while it is only looked at is kept all the same, in a project of its own.
void Files::moveToCopy() {
  auto fresh =
      makeFreshFolder(RecentProjects::home(), m_folder.stem().string() + " copy", ".tuvvo");
  if (!fresh) {
    emit message(QString::fromStdString(fresh.error().text()), true);
    return;
  }
  leaveFolder();
  m_folder = std::move(fresh).value();
  m_lock = FolderLock::take(m_folder).lock;
  m_state = {};
  m_readOnly = false;
  emit message(tr("This project was open for looking only. Your changes are kept in a copy: %1")
                   .arg(QString::fromStdString(m_folder.string())),
               false);
  emit changed();
}

void Files::autosave() {
  if (m_lock) m_lock->refresh();
  if (m_folder.empty() || m_autosavedStep == m_document.projectPtr() || !unsaved()) return;
  if (m_saver.busy()) return; // the next one has what is new
  if (m_readOnly) moveToCopy();
  if (m_readOnly) return;
  m_saver.begin(Saver::Kind::Autosave, m_document.projectPtr(), m_folder, m_state);
}

void Files::wait() {
  while (m_saver.busy()) takeSaved(m_saver.finish());
}

void Files::autosaveNow() {
  wait();
  autosave();
  wait();
}

} // namespace tuvvo
