#include "formats/bundle.h"

#include "audio/decode.h"
#include "audio/encode.h"
#include "base/files.h"
#include "formats/json_read.h"
#include "formats/listening_json.h"
#include "formats/project_json.h"

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

constexpr std::uint64_t kMostProjectBytes = 256u << 20;
constexpr const char* kProjectFile = "project.json";
constexpr const char* kAutosaveFile = "autosave.json";

fs::path soundFile(const fs::path& folder, const std::string& hash) {
  std::error_code code;
  const fs::path base = folder / "audio" / hash;
  const fs::path wav = base.string() + ".wav";
  return fs::exists(wav, code) ? wav : fs::path(base.string() + ".flac");
}

fs::path hearingFile(const fs::path& folder, const std::string& hash) {
  return folder / "audio" / (hash + ".heard.json");
}

Result<void> makeFolder(const fs::path& folder) {
  std::error_code code;
  fs::create_directories(folder, code);
  if (code)
    return Error{"The folder cannot be made (" + code.message() + ")", folder.string(),
                 "Choose a folder that can be written to."};
  return {};
}

/// Sounds and hearings are named by content, so what is there already is right already.
Result<void> collectSounds(const Project& project, const fs::path& folder) {
  std::error_code code;
  for (const auto& source : project.sources) {
    if (source->sound && !fs::exists(soundFile(folder, source->hash), code)) {
      const fs::path base = folder / "audio" / source->hash;
      const bool flac = fitsIn24Bits(*source->sound);
      auto written = encodeFile(*source->sound, base.string() + (flac ? ".flac" : ".wav"),
                                flac ? FileFormat::Flac : FileFormat::Wav,
                                flac ? SampleFormat::Int24 : SampleFormat::Float32);
      if (!written) return written;
    }
    const fs::path heard = hearingFile(folder, source->hash);
    if (source->heard && !fs::exists(heard, code))
      if (auto written = writeHearing(heard, *source->heard); !written) return written;
  }
  return {};
}

void loadSounds(OpenedProject& opened, const fs::path& folder, JobContext& job) {
  const double count = double(std::max<std::size_t>(1, opened.project.sources.size()));
  double done = 0;
  for (auto& source : opened.project.sources) {
    auto copy = std::make_shared<Source>(*source);
    JobContext inner;
    auto decoded = decodeFile(soundFile(folder, source->hash), inner);
    if (decoded && decoded->sound->hash() == source->hash)
      copy->sound = decoded->sound;
    else if (decoded)
      opened.warnings.push_back(
          "The sound of \"" + source->name +
          "\" is damaged; put a good copy back into the project's audio folder.");
    else
      opened.warnings.push_back("The sound of \"" + source->name + "\" is missing. " +
                                decoded.error().text());
    copy->heard = readHearing(hearingFile(folder, source->hash));
    if (copy->sound) // cuts may not reach past what is there
      for (auto& cut : copy->cuts) {
        cut.end = std::min(cut.end, copy->sound->frames());
        cut.start = std::min(cut.start, cut.end);
      }
    source = std::move(copy);
    job.report(++done / count);
    if (job.cancelled()) return;
  }
}

} // namespace

std::optional<Listening> readHearing(const fs::path& path) {
  auto bytes = readFile(path, kMostProjectBytes);
  if (!bytes) return std::nullopt;
  try {
    auto heard = listeningFromJson(json_read::parse(*bytes));
    if (heard) return *heard;
  } catch (const json_read::Bad&) {
    // Not worth a message: it is heard again.
  }
  return std::nullopt;
}

Result<void> writeHearing(const fs::path& path, const Listening& heard) {
  return writeFileAtomically(path, toJson(heard).dump() + "\n");
}

Result<void> saveProject(const Project& project, const fs::path& folder, std::int64_t revision) {
  for (const auto& part : {folder, folder / "audio", folder / "history"})
    if (auto made = makeFolder(part); !made) return made;
  if (auto collected = collectSounds(project, folder); !collected) return collected;

  std::error_code code;
  const fs::path target = folder / kProjectFile;
  if (fs::exists(target, code)) {
    auto before = readFile(target, kMostProjectBytes);
    if (before) {
      auto known = projectFromText(*before, target.string());
      const std::int64_t number = known ? known->revision : 0;
      const fs::path kept = folder / "history" / ("project-" + std::to_string(number) + ".json");
      if (!fs::exists(kept, code))
        if (auto copied = writeFileAtomically(kept, *before); !copied) return copied;
    }
  }
  if (auto saved = writeFileAtomically(target, projectToText(project, revision)); !saved)
    return saved;
  // Only now is the autosave of no more use.
  fs::remove(folder / kAutosaveFile, code);
  return {};
}

Result<void> autosaveProject(const Project& project, const fs::path& folder,
                             std::int64_t revision) {
  for (const auto& part : {folder, folder / "audio"})
    if (auto made = makeFolder(part); !made) return made;
  if (auto collected = collectSounds(project, folder); !collected) return collected;
  return writeFileAtomically(folder / kAutosaveFile, projectToText(project, revision));
}

Result<OpenedProject> openProject(const fs::path& folder, JobContext& job) {
  std::error_code code;
  if (!fs::is_directory(folder, code))
    return Error{"There is no such project folder", folder.string(),
                 "Choose a folder whose name ends in .tuvvo."};
  std::optional<ReadProject> best;
  std::optional<Error> trouble;
  bool recovered = false;
  for (const char* name : {kProjectFile, kAutosaveFile}) {
    const fs::path path = folder / name;
    if (!fs::exists(path, code)) continue;
    auto bytes = readFile(path, kMostProjectBytes);
    if (!bytes) {
      trouble = bytes.error();
      continue;
    }
    auto read = projectFromText(*bytes, path.string());
    if (!read) {
      if (!trouble) trouble = read.error();
    } else if (!best || read->revision > best->revision) {
      recovered = name == kAutosaveFile;
      best = std::move(read).value();
    }
  }
  if (!best)
    return trouble ? *trouble
                   : Error{"There is no project in this folder", folder.string(),
                           "Choose a folder whose name ends in .tuvvo."};
  OpenedProject opened;
  opened.project = std::move(best->project);
  opened.revision = best->revision;
  opened.readOnly = best->schema > kProjectSchema;
  opened.recovered = recovered;
  opened.warnings = std::move(best->warnings);
  if (opened.readOnly)
    opened.warnings.push_back("This project was made by a newer version of Tuvvo. It is open for "
                              "looking and listening; save it under another name to change it.");
  if (trouble) opened.warnings.push_back(trouble->text());
  loadSounds(opened, folder, job);
  return opened;
}

Result<CheckReport> checkProject(const fs::path& folder, JobContext& job) {
  auto opened = openProject(folder, job);
  if (!opened) return opened.error();
  const Project& p = opened->project;
  CheckReport report{int(p.sources.size()), int(p.keys.size()), int(p.patterns.size()),
                     int(p.sections.size()), opened->warnings};
  for (const auto& key : p.keys) {
    const Source* source = findSource(p, key.sound.source);
    if (!source)
      report.problems.push_back("Key \"" + nameOf(p, key) +
                                "\" plays a source that is not in the project.");
    else if (key.sound.cut != 0 && !findCut(*source, key.sound.cut))
      report.problems.push_back("Key \"" + nameOf(p, key) + "\" plays a cut of \"" + source->name +
                                "\" that is not there.");
    if (!findPart(p, key.part))
      report.problems.push_back("Key \"" + nameOf(p, key) + "\" belongs to no part.");
  }
  return report;
}

} // namespace tuvvo
