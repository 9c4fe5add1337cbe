#include "session/print_service.h"

#include "formats/smf_beat.h"
#include "model/edits.h"

namespace tuvvo {

Outputs PrintService::outputs(Replace replace) const {
  Outputs outputs(replace);
  protectSources(m_document.project(), outputs);
  if (!m_files.folder().empty()) outputs.protect(m_files.folder());
  return outputs;
}

std::filesystem::path PrintService::Request::stemsFolder() const {
  return file.path.parent_path() / (file.path.stem().string() + " stems");
}

std::filesystem::path PrintService::Request::midiFile() const {
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

QStringList PrintService::replacedBy(const Request& request) const {
  std::vector<std::filesystem::path> files{request.file.path};
  if (request.stems)
    for (const auto& stem :
         stemFiles(m_document.project(), request.stemsFolder(), request.file.format))
      files.push_back(stem);
  if (request.midi) files.push_back(request.midiFile());
  return thoseThatAreThere(files);
}

QStringList PrintService::replacedBy(Id source, const SlicesOut& options) const {
  return thoseThatAreThere(sliceFiles(m_document.project(), source, options));
}

void PrintService::sayLater(const QString& text, bool trouble) {
  m_jobs.later([this, text, trouble] { emit message(text, trouble); });
}

void PrintService::printSong(const Request& request, Replace replace) {
  const QString name = QString::fromStdString(request.file.path.filename().string());
  m_jobs.start(tr("Printing %1").arg(name), [this, request, outputs = outputs(replace),
                                             value = m_document.projectPtr()](
                                                JobContext& context) mutable {
    const auto failed = [this](const Error& error) {
      sayLater(QString::fromStdString(error.text()), true);
    };
    PrintOptions options = request.options;
    options.bakeCache = &m_player.bakeCache();
    if (auto printed = tuvvo::printSong(*value, request.file, options, outputs, context); !printed)
      return failed(printed.error());
    QString said = tr("Printed %1").arg(QString::fromStdString(request.file.path.string()));
    if (request.stems) {
      auto stems =
          printStems(*value, request.stemsFolder(), request.file, options, outputs, context);
      if (!stems) return failed(stems.error());
      said = tr("Printed the song and %1 stems").arg(stems->size());
    }
    if (request.midi) {
      const auto written = writeSmf(compileSong(*value), *value, true, request.midiFile(), outputs);
      if (!written) return failed(written.error());
      said += tr(", with a MIDI file");
    }
    sayLater(said, false);
  });
}

void PrintService::writeSlicesTo(Id id, const SlicesOut& options, Replace replace) {
  m_jobs.start(tr("Writing slices"), [this, id, options, outputs = outputs(replace),
                                      value = m_document.projectPtr()](JobContext& job) mutable {
    const auto written = writeSlices(*value, id, options, outputs, job);
    if (job.cancelled()) return;
    sayLater(written ? tr("%1 files written to %2")
                           .arg(written->size())
                           .arg(QString::fromStdString(options.folder.string()))
                     : QString::fromStdString(written.error().text()),
             !written);
  });
}

void PrintService::writePattern(Id id, const std::filesystem::path& file, Replace replace) {
  const QString name = QString::fromStdString(file.string());
  m_jobs.start(tr("Writing %1").arg(name), [this, id, file, name, outputs = outputs(replace),
                                            value = m_document.projectPtr()](JobContext&) mutable {
    const auto written = writeSmf(compilePattern(*value, id), *value, false, file, outputs);
    sayLater(written ? tr("Written: %1").arg(name) : QString::fromStdString(written.error().text()),
             !written);
  });
}

} // namespace tuvvo
