#include "audio/decode.h"
#include "formats/smf_beat.h"
#include "listen/listen.h"
#include "model/edits.h"
#include "session/session.h"

#include <QFileInfo>

namespace tuvvo {

namespace {

/// What was heard in a sound before, and what was said of it.
void recallFromCrate(Crate* crate, Source& source) {
  if (!crate) return;
  if (const auto marks = crate->marksOf(source.hash)) {
    source.corrections = marks->corrections;
    source.provenance = marks->provenance;
  }
  const auto id = crate->idOf(source.hash);
  if (!id || *id == 0) return;
  auto item = crate->item(*id);
  if (!item || !*item) return;
  source.heard = (*item)->source.heard;
  if (source.provenance == Provenance{}) source.provenance = (*item)->source.provenance;
}

} // namespace

void Session::startJob(const QString& text, JobPool::Job job) {
  m_jobText = text;
  const auto ended = [this] {
    later([this] {
      m_job.reset();
      m_jobText.clear();
      emit jobChanged();
    });
  };
  m_job = m_pool.run(
      [job = std::move(job), ended](JobContext& context) {
        job(context);
        ended();
      },
      [this, ended](const Error& error) {
        m_sayTrouble(error);
        ended();
      });
  emit jobChanged();
}

void Session::cancelJob() {
  if (m_job) m_job->cancel();
}

void Session::waitForJobs() {
  takeAutosaved(m_autosaver.finish());
  m_quick.waitIdle();
  m_pool.waitIdle();
}

void Session::importFiles(const QStringList& paths) {
  if (paths.isEmpty()) return;
  const QString text = paths.size() == 1 ? tr("Listening to %1").arg(QFileInfo(paths[0]).fileName())
                                         : tr("Listening to %1 sounds").arg(paths.size());
  startJob(text, [this, paths, library = crate()](JobContext& context) {
    for (const QString& path : paths) {
      auto decoded = decodeFile(path.toStdString(), context);
      if (context.cancelled()) return;
      if (!decoded) {
        later([this, said = decoded.error().text()] {
          emit message(QString::fromStdString(said), true);
        });
        continue;
      }
      Source source;
      source.name = QFileInfo(path).completeBaseName().toStdString();
      source.origin = path.toStdString();
      source.sound = decoded->sound;
      source.hash = source.sound->hash();
      recallFromCrate(library, source);
      if (!source.heard) source.heard = listen(*source.sound, context);
      if (source.provenance == Provenance{})
        source.provenance = provenanceFromTags(path.toStdString());
      if (context.cancelled()) return;
      later([this, source, warnings = decoded->warnings] {
        Id id = 0;
        const std::size_t before = project().sources.size();
        Project next = withSource(project(), source, &id);
        const bool known = next.sources.size() == before;
        edit(tr("Add %1").arg(QString::fromStdString(source.name)), std::move(next));
        selectSource(id);
        if (known)
          emit message(tr("%1 is in the crate already.").arg(QString::fromStdString(source.name)),
                       false);
        for (const auto& warning : warnings)
          emit message(QString::fromStdString(source.name + ": " + warning), true);
      });
    }
  });
}

void Session::saveTo(const std::filesystem::path& folder) {
  takeAutosaved(m_autosaver.finish());
  const bool elsewhere = folder != m_folder || m_readOnly;
  std::unique_ptr<FolderLock> lock;
  if (elsewhere) {
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
    lock = std::move(taken.lock);
  }
  auto saved = saveProject(project(), folder, elsewhere ? SavedState{} : m_state);
  if (!saved) {
    emit message(QString::fromStdString(saved.error().text()), true);
    return;
  }
  if (elsewhere) {
    leaveFolder();
    m_lock = std::move(lock);
  }
  m_state = std::move(saved).value();
  m_folder = folder;
  m_readOnly = false;
  m_savedStep = m_autosavedStep = m_history.current();
  if (const QString trouble = m_recent.note(folder); !trouble.isEmpty())
    emit message(trouble, true);
  std::vector<std::string> hashes;
  for (const auto& source : project().sources)
    if (!source->kit) hashes.push_back(source->hash);
  if (crate())
    if (auto set = m_crate->setUses(folder.string(), project().name, hashes); !set)
      emit message(QString::fromStdString(set.error().text()), true);
  emit message(tr("Saved in %1").arg(QString::fromStdString(folder.string())), false);
  emit changed();
}

bool Session::save() {
  if (m_readOnly) {
    emit message(tr("This project is open for looking only. Save it under another name."), true);
    return false;
  }
  saveTo(m_folder);
  return !unsaved();
}

bool Session::holdsAnother(const QString& folder) const {
  const std::filesystem::path target = folder.toStdString();
  std::error_code code;
  return target != m_folder && (std::filesystem::exists(target / "project.json", code) ||
                                std::filesystem::exists(target / "autosave.json", code));
}

bool Session::saveAs(const QString& folder, Replace replace) {
  QString target = folder;
  if (!target.endsWith(QLatin1String(".tuvvo"))) target += QStringLiteral(".tuvvo");
  if (replace == Replace::No && holdsAnother(target)) {
    emit message(tr("%1: there is a project already. Choose another name.").arg(target), true);
    return false;
  }
  Project named = project();
  named.name = QFileInfo(target).completeBaseName().toStdString();
  edit(tr("Name the project"), std::move(named));
  saveTo(target.toStdString());
  return !unsaved();
}

/// What is changed while it is only looked at is kept all the same, in a project of its own.
void Session::moveToCopy() {
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
}

void Session::autosave() {
  if (m_lock) m_lock->refresh();
  if (m_folder.empty() || m_autosavedStep == m_history.current() || !unsaved()) return;
  if (m_readOnly) moveToCopy();
  if (m_readOnly) return;
  if (m_autosaver.busy()) return; // the next one has what is new
  m_autosaver.begin(projectPtr(), m_folder, m_state);
}

/// What came of an autosave; of another folder it is nothing to this one.
void Session::takeAutosaved(std::optional<Autosaver::Saved> saved) {
  if (!saved || saved->folder != m_folder) return;
  if (!saved->state) {
    emit message(QString::fromStdString(saved->state.error().text()), true);
    return;
  }
  const bool first = m_state.autosave.empty();
  m_state = std::move(saved->state).value();
  m_autosavedStep = saved->value;
  if (first)
    if (const QString trouble = m_recent.note(m_folder); !trouble.isEmpty())
      emit message(trouble, true);
}

void Session::autosaveNow() {
  takeAutosaved(m_autosaver.finish());
  autosave();
  takeAutosaved(m_autosaver.finish());
}

Outputs Session::outputs(Replace replace) const {
  Outputs outputs(replace);
  protectSources(project(), outputs);
  if (!m_folder.empty()) outputs.protect(m_folder);
  return outputs;
}

std::filesystem::path Session::PrintRequest::stemsFolder() const {
  return file.path.parent_path() / (file.path.stem().string() + " stems");
}

std::filesystem::path Session::PrintRequest::midiFile() const {
  auto path = file.path;
  return path.replace_extension(".mid");
}

namespace {

QStringList thoseThatAreThere(const std::vector<std::filesystem::path>& files) {
  QStringList out;
  std::error_code code;
  for (const auto& file : files)
    if (std::filesystem::exists(file, code)) out << QString::fromStdString(file.string());
  return out;
}

} // namespace

QStringList Session::replacedBy(const PrintRequest& request) const {
  std::vector<std::filesystem::path> files{request.file.path};
  if (request.stems)
    for (const auto& stem : stemFiles(project(), request.stemsFolder(), request.file.format))
      files.push_back(stem);
  if (request.midi) files.push_back(request.midiFile());
  return thoseThatAreThere(files);
}

QStringList Session::replacedBy(Id source, const SlicesOut& options) const {
  return thoseThatAreThere(sliceFiles(project(), source, options));
}

void Session::printSong(const PrintRequest& request, Replace replace) {
  startJob(tr("Printing %1").arg(QString::fromStdString(request.file.path.filename().string())),
           [this, request, outputs = outputs(replace),
            value = projectPtr()](JobContext& context) mutable {
             PrintOptions options = request.options;
             options.bakery = &m_bakery;
             auto printed = tuvvo::printSong(*value, request.file, options, outputs, context);
             QString said =
                 printed ? tr("Printed %1").arg(QString::fromStdString(request.file.path.string()))
                         : QString::fromStdString(printed.error().text());
             bool trouble = !printed;
             if (printed && request.stems) {
               auto stems = printStems(*value, request.stemsFolder(), request.file, options,
                                       outputs, context);
               said = stems ? tr("Printed the song and %1 stems").arg(stems->size())
                            : QString::fromStdString(stems.error().text());
               trouble = !stems;
             }
             if (printed && request.midi && !trouble) {
               const auto written =
                   writeSmf(compileSong(*value), *value, true, request.midiFile(), outputs);
               trouble = !written;
               said = written ? said + tr(", with a MIDI file")
                              : QString::fromStdString(written.error().text());
             }
             later([this, said, trouble] { emit message(said, trouble); });
           });
}

} // namespace tuvvo
