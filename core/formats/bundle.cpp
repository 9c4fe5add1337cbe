#include "formats/bundle.h"

#include "audio/decode.h"
#include "audio/encode.h"
#include "base/convert.h"
#include "base/guard.h"
#include "base/hash.h"
#include "base/new_file.h"
#include "formats/analysis_json.h"
#include "formats/json_read.h"
#include "formats/project_json.h"

#include <algorithm>
#include <cerrno>

namespace tuvvo {

namespace fs = std::filesystem;

namespace {

constexpr std::uint64_t kMostProjectBytes = std::uint64_t(512) << 20;
constexpr std::uint64_t kMostHearingBytes = std::uint64_t(128) << 20;
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

/// Sounds and hearings are named by content, so what is there already is right already.
Result<void> collectSounds(const Project& project, const fs::path& folder) {
  std::error_code code;
  for (const auto& source : project.sources) {
    if (source->sound && !fs::exists(soundFile(folder, source->hash), code)) {
      const fs::path base = folder / "audio" / source->hash;
      const bool flac = fitsIn24Bits(*source->sound);
      EncodeOptions options;
      options.format = flac ? FileFormat::Flac : FileFormat::Wav;
      options.samples = flac ? SampleFormat::Int24 : SampleFormat::Float32;
      options.mode = modeLike(source->origin);
      auto written = encodeFile(*source->sound, base.string() + (flac ? ".flac" : ".wav"), options);
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

std::optional<Analysis> readHearing(const fs::path& path) {
  auto bytes = readFile(path, kMostHearingBytes);
  if (!bytes) return std::nullopt;
  try {
    auto heard = analysisFromJson(json_read::parse(*bytes));
    if (heard) return *heard;
  } catch (const json_read::Bad&) {
    // Not worth a message: it is heard again.
  }
  return std::nullopt;
}

Result<void> writeHearing(const fs::path& path, const Analysis& heard) {
  return writeFileAtomically(path, toJson(heard).dump() + "\n");
}

namespace {

constexpr const char* kHistory = "history";

/// The number of a state by its file's name; −1 for what is none.
std::int64_t numberOf(const fs::path& kept) {
  const std::string name = kept.filename().string();
  const auto digits = name.find_first_of("0123456789");
  if (kept.extension() != ".json" || digits == std::string::npos) return -1;
  if (!name.starts_with("project-") && !name.starts_with("autosave-")) return -1;
  const double number = std::strtod(name.c_str() + digits, nullptr);
  return toWholeIn<std::int64_t>(number, 0, kMostRevision);
}

/// The latest saved state in the history.
struct Latest {
  std::int64_t number = 0; ///< the highest there is, of saves and autosaves
  fs::path save;           ///< the file of the latest save; empty for none
};

Latest latestIn(const fs::path& folder) {
  Latest latest;
  std::int64_t save = -1;
  for (const auto& name : namesIn(folder / kHistory)) {
    const std::int64_t number = numberOf(name);
    latest.number = std::max(latest.number, number);
    if (number > save && name.starts_with("project-")) {
      save = number;
      latest.save = folder / kHistory / name;
    }
  }
  return latest;
}

std::string hashOf(const std::string& bytes) { return contentHash(bytes.data(), bytes.size()); }

/// Puts a state into the history, under its number and, where that is another state's, a second
/// figure. What is there already in the same words is not written twice.
Result<void> keepState(const fs::path& folder, const char* kind, std::int64_t number,
                       const std::string& bytes) {
  std::error_code code;
  for (int n = 1; n < 10'000; ++n) {
    const fs::path path = folder / kHistory /
                          (std::string(kind) + "-" + std::to_string(number) +
                           (n > 1 ? "-" + std::to_string(n) : "") + ".json");
    if (fs::exists(path, code)) {
      const auto there = readFile(path, kMostProjectBytes);
      if (there && *there == bytes) return {};
      continue;
    }
    auto written = writeFileAtomically(path, bytes, Replace::No);
    if (written || !written.error().replaces) return written;
  }
  return Error{"The history holds too many states of one number", folder.string(),
               "Move some of them away."};
}

/// What stands in a file that is about to be replaced or removed is kept, whoever wrote it.
Result<void> keepFile(const fs::path& folder, const char* name, const char* kind) {
  std::error_code code;
  const fs::path path = folder / name;
  if (!fs::exists(path, code)) return {};
  const auto bytes = readFile(path, kMostProjectBytes);
  if (!bytes) return bytes.error(); // what cannot be read cannot be kept, and is not replaced
  return keepState(folder, kind, revisionIn(*bytes), *bytes);
}

std::int64_t revisionOf(const fs::path& path) {
  std::error_code code;
  if (!fs::exists(path, code)) return 0;
  const auto bytes = readFile(path, kMostProjectBytes);
  return bytes ? revisionIn(*bytes) : 0;
}

/// Higher than any there is.
std::int64_t nextNumber(const fs::path& folder, const SavedState& known) {
  return std::min(kMostRevision - 1, std::max({known.revision, latestIn(folder).number,
                                               revisionOf(folder / kProjectFile),
                                               revisionOf(folder / kAutosaveFile)})) +
         1;
}

Result<std::string> textOf(const Project& project, const fs::path& folder, std::int64_t number) {
  std::string text = projectToText(project, number);
  if (text.size() <= kMostProjectBytes) return text;
  return Error{"The project is larger than could be read again", folder.string(),
               "Take out patterns or hits that are not needed; nothing was changed."};
}

Result<void> makeFolders(const fs::path& folder) {
  for (const auto& part : {folder, folder / "audio", folder / kHistory}) {
    if (auto made = makeFolder(part); !made) return made;
    removeLeftovers(part);
  }
  return {};
}

/// An autosave that this window wrote is in its document; any other is kept.
Result<void> clearAutosave(const fs::path& folder, const SavedState& known) {
  std::error_code code;
  const fs::path path = folder / kAutosaveFile;
  if (!fs::exists(path, code)) return {};
  const auto bytes = readFile(path, kMostProjectBytes);
  if (!bytes || hashOf(*bytes) != known.autosave)
    if (auto kept = keepFile(folder, kAutosaveFile, "autosave"); !kept) return kept;
  if (discCalls().unlink(path.c_str()) != 0) return discError("Removing the autosave", path, errno);
  return {};
}

Result<SavedState> saveWhole(const Project& project, const fs::path& folder,
                             const SavedState& known) {
  if (auto made = makeFolders(folder); !made) return made.error();
  if (auto collected = collectSounds(project, folder); !collected) return collected.error();
  if (auto kept = keepFile(folder, kProjectFile, "project"); !kept) return kept.error();
  const std::int64_t number = nextNumber(folder, known);
  const auto text = textOf(project, folder, number);
  if (!text) return text.error();
  // Into the history first: whoever then copies another state over the project loses nothing.
  if (auto kept = keepState(folder, "project", number, *text); !kept) return kept.error();
  if (auto saved = writeFileAtomically(folder / kProjectFile, *text); !saved) return saved.error();
  // Only now is the autosave of no more use. One that cannot be removed is older than the save.
  (void)clearAutosave(folder, known);
  return SavedState{number, {}};
}

Result<SavedState> autosaveWhole(const Project& project, const fs::path& folder,
                                 const SavedState& known) {
  if (auto made = makeFolders(folder); !made) return made.error();
  if (auto collected = collectSounds(project, folder); !collected) return collected.error();
  const fs::path path = folder / kAutosaveFile;
  std::error_code code;
  if (fs::exists(path, code)) {
    const auto there = readFile(path, kMostProjectBytes);
    if (!there || hashOf(*there) != known.autosave)
      if (auto kept = keepFile(folder, kAutosaveFile, "autosave"); !kept) return kept.error();
  }
  const auto text = textOf(project, folder, nextNumber(folder, known));
  if (!text) return text.error();
  if (auto saved = writeFileAtomically(path, *text); !saved) return saved.error();
  return SavedState{known.revision, hashOf(*text)};
}

/// A state of the folder as it was read.
struct Candidate {
  ReadProject read;
  std::string hash;
};

Result<Candidate> candidateIn(const fs::path& path, JobContext& job) {
  const auto bytes = readFile(path, kMostProjectBytes);
  if (!bytes) return bytes.error();
  auto read = projectFromText(*bytes, path.string(), &job);
  if (!read) return read.error();
  return Candidate{std::move(read).value(), hashOf(*bytes)};
}

/// Whether somebody put an older state in the project's place: then that is what is wanted.
bool wasPutBack(const fs::path& folder, std::int64_t revision) {
  const Latest latest = latestIn(folder);
  std::error_code code;
  if (latest.save.empty() || revision >= numberOf(latest.save)) return false;
  const auto kept = fs::last_write_time(latest.save, code);
  return !code && fs::last_write_time(folder / kProjectFile, code) > kept && !code;
}

std::string remedyIn(const fs::path& folder) {
  const Latest latest = latestIn(folder);
  if (latest.save.empty())
    return "There is no earlier state in its folder; put back a copy of yours.";
  return "Copy " + latest.save.filename().string() +
         " from its folder \"history\" over project.json: it is the last state that was saved.";
}

} // namespace

Result<SavedState> saveProject(const Project& project, const fs::path& folder,
                               const SavedState& known) {
  return guarded("Saving the project", folder.string(),
                 [&] { return saveWhole(project, folder, known); });
}

Result<SavedState> autosaveProject(const Project& project, const fs::path& folder,
                                   const SavedState& known) {
  return guarded("Keeping the project", folder.string(),
                 [&] { return autosaveWhole(project, folder, known); });
}

namespace {

Result<OpenedProject> openWhole(const fs::path& folder, JobContext& job) {
  std::error_code code;
  if (!fs::is_directory(folder, code))
    return Error{"There is no such project folder", folder.string(),
                 "Choose a folder whose name ends in .tuvvo."};
  std::optional<Candidate> save, autosave;
  std::optional<Error> trouble;
  for (const char* name : {kProjectFile, kAutosaveFile}) {
    if (!fs::exists(folder / name, code)) continue;
    auto found = candidateIn(folder / name, job);
    if (job.cancelled()) return Error{"Opening was cancelled", folder.string(), ""};
    if (!found) {
      if (!trouble) trouble = found.error();
      continue;
    }
    (name == kProjectFile ? save : autosave) = std::move(found).value();
  }
  if (!save && !autosave) {
    if (!trouble)
      return Error{"There is no project in this folder", folder.string(),
                   "Choose a folder whose name ends in .tuvvo."};
    trouble->remedy = remedyIn(folder);
    return *trouble;
  }
  const bool recovered = autosave && (!save || (autosave->read.revision > save->read.revision &&
                                                !wasPutBack(folder, save->read.revision)));
  Candidate& best = recovered ? *autosave : *save;
  OpenedProject opened;
  opened.project = std::move(best.read.project);
  opened.state.revision = best.read.revision;
  if (recovered) opened.state.autosave = best.hash;
  opened.readOnly = best.read.schema > kProjectSchema;
  opened.recovered = recovered;
  opened.warnings = std::move(best.read.warnings);
  if (opened.readOnly)
    opened.warnings.insert(opened.warnings.begin(),
                           "This project was made by a newer version of Tuvvo. It is open for "
                           "looking and listening; save it under another name to change it.");
  if (trouble) opened.warnings.push_back(trouble->text());
  if (autosave && !recovered && autosave->read.revision > opened.state.revision)
    opened.warnings.push_back("An earlier state was put back. Work that had not been saved is kept "
                              "in the project's folder \"history\" when you save.");
  loadSounds(opened, folder, job);
  if (job.cancelled()) return Error{"Opening was cancelled", folder.string(), ""};
  return opened;
}

} // namespace

Result<OpenedProject> openProject(const fs::path& folder, JobContext& job) {
  return guarded("Opening the project", folder.string(), [&] { return openWhole(folder, job); });
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
