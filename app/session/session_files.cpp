#include "audio/decode.h"
#include "formats/bundle.h"
#include "formats/shipped.h"
#include "formats/smf_beat.h"
#include "listen/listen.h"
#include "model/edits.h"
#include "session/session.h"

#include <QDateTime>
#include <QDir>
#include <QFileInfo>
#include <QStandardPaths>

namespace tuvvo {

namespace {

/// A folder of its own for a project that nobody has named yet, so that it cannot be lost.
std::filesystem::path freshFolder(const QString& name) {
  const QString base = QStandardPaths::writableLocation(QStandardPaths::GenericDataLocation) +
                       QStringLiteral("/tuvvo/projects");
  QDir().mkpath(base);
  for (int n = 1;; ++n) {
    const QString path = base + QLatin1Char('/') + name +
                         (n > 1 ? QStringLiteral(" %1").arg(n) : QString()) +
                         QStringLiteral(".tuvvo");
    if (!QFileInfo::exists(path)) return path.toStdString();
  }
}

/// What was heard in a sound before, and what was said of it.
void recallFromCrate(Crate* crate, Source& source) {
  if (!crate) return;
  if (const auto marks = crate->marksOf(source.hash)) {
    source.corrections = marks->corrections;
    source.papers = marks->papers;
  }
  const auto id = crate->idOf(source.hash);
  if (!id || *id == 0) return;
  auto item = crate->item(*id);
  if (!item || !*item) return;
  source.heard = (*item)->source.heard;
  if (source.papers == Papers{}) source.papers = (*item)->source.papers;
}

} // namespace

void Session::resetTo(Project project, const std::filesystem::path& folder, std::int64_t revision) {
  stop();
  if (m_auditionSource) endAudition();
  m_history = History(std::move(project));
  m_savedStep = m_autosavedStep = m_history.current();
  m_folder = folder;
  m_revision = revision;
  m_readOnly = false;
  m_selection = {};
  m_measure = {};
  m_taps.reset();
  m_crateSteps.clear();
  m_written.clear();
  rememberWritten();
  documentChanged();
}

void Session::startNew() {
  autosave();
  JobContext job;
  NewProject fresh = newProject(dataFolder(), job);
  resetTo(std::move(fresh.project), freshFolder(tr("Untitled")), 0);
  for (const auto& warning : fresh.warnings) emit message(QString::fromStdString(warning), true);
}

void Session::startDemo() {
  autosave();
  JobContext job;
  auto demo = shippedDemo(dataFolder(), job);
  if (!demo) {
    emit message(QString::fromStdString(demo.error().text()), true);
    return;
  }
  resetTo(std::move(demo).value(), freshFolder(QStringLiteral("Salt Quay")), 0);
}

void Session::open(const QString& folder) {
  autosave();
  JobContext job;
  auto opened = openProject(folder.toStdString(), job);
  if (!opened) {
    emit message(QString::fromStdString(opened.error().text()), true);
    return;
  }
  const bool readOnly = opened->readOnly, recovered = opened->recovered;
  const auto warnings = opened->warnings;
  const std::int64_t revision = opened->revision;
  resetTo(std::move(opened).value().project, folder.toStdString(), revision);
  m_readOnly = readOnly;
  if (recovered) {
    m_savedStep = nullptr; // what is open is later than what was saved
    emit message(tr("Opened as you left it. It had not been saved; the saved state is in the "
                    "project's folder."),
                 false);
  }
  for (const auto& warning : warnings) emit message(QString::fromStdString(warning), true);
  // What was never listened to, or whose hearing was lost, is heard now.
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

void Session::startJob(const QString& text, JobPool::Job job) {
  m_jobText = text;
  m_job = m_pool.run([this, job = std::move(job)](JobContext& context) {
    job(context);
    later([this] {
      m_job.reset();
      m_jobText.clear();
      emit jobChanged();
    });
  });
  emit jobChanged();
}

void Session::cancelJob() {
  if (m_job) m_job->cancel();
}

void Session::waitForJobs() {
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
      if (source.papers == Papers{}) source.papers = papersFromTags(path.toStdString());
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
  auto saved = saveProject(project(), folder, m_revision + 1);
  if (!saved) {
    emit message(QString::fromStdString(saved.error().text()), true);
    return;
  }
  ++m_revision;
  m_folder = folder;
  m_readOnly = false;
  m_savedStep = m_autosavedStep = m_history.current();
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
    emit message(tr("This project was made by a newer version. Save it under another name."), true);
    return false;
  }
  saveTo(m_folder);
  return !unsaved();
}

bool Session::saveAs(const QString& folder) {
  QString target = folder;
  if (!target.endsWith(QLatin1String(".tuvvo"))) target += QStringLiteral(".tuvvo");
  Project named = project();
  named.name = QFileInfo(target).completeBaseName().toStdString();
  edit(tr("Name the project"), std::move(named));
  saveTo(target.toStdString());
  return !unsaved();
}

void Session::autosave() {
  if (m_readOnly || m_folder.empty() || m_autosavedStep == m_history.current() || !unsaved())
    return;
  auto saved = autosaveProject(project(), m_folder, m_revision + 1);
  if (saved)
    m_autosavedStep = m_history.current();
  else
    emit message(QString::fromStdString(saved.error().text()), true);
}

void Session::printSong(const PrintRequest& request) {
  startJob(tr("Printing %1").arg(QString::fromStdString(request.file.path.filename().string())),
           [this, request, value = projectPtr()](JobContext& context) {
             PrintOptions options = request.options;
             options.bakery = &m_bakery;
             auto printed = tuvvo::printSong(*value, request.file, options, context);
             QString said =
                 printed ? tr("Printed %1").arg(QString::fromStdString(request.file.path.string()))
                         : QString::fromStdString(printed.error().text());
             bool trouble = !printed;
             if (printed && request.stems) {
               const auto folder =
                   request.file.path.parent_path() / (request.file.path.stem().string() + " stems");
               auto stems = printStems(*value, folder, request.file, options, context);
               said = stems ? tr("Printed the song and %1 stems").arg(stems->size())
                            : QString::fromStdString(stems.error().text());
               trouble = !stems;
             }
             if (printed && request.midi && !trouble) {
               auto path = request.file.path;
               const auto written =
                   writeSmf(compileSong(*value), *value, true, path.replace_extension(".mid"));
               trouble = !written;
               said = written ? said + tr(", with a MIDI file")
                              : QString::fromStdString(written.error().text());
             }
             later([this, said, trouble] { emit message(said, trouble); });
           });
}

} // namespace tuvvo
