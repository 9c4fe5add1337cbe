// The project folder: Name.tuvvo/ with project.json, audio/<hash>.flac or .wav, history/.
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "model/project.h"

#include <filesystem>

namespace tuvvo {

/// What a window knows of the states in a project's folder.
struct SavedState {
  std::int64_t revision = 0; ///< of the state that was opened or saved last
  std::string autosave;      ///< content hash of the autosave that it wrote or opened; else empty
};

/// A project that was read from its folder.
struct OpenedProject {
  Project project;
  SavedState state;
  bool readOnly = false;  ///< made by a newer version: look, but save elsewhere
  bool recovered = false; ///< the autosave was later than the last save
  std::vector<std::string> warnings;
};

/// Saves a value of the document: collects every sound into audio/, puts the state into history/
/// under a number above all others there, and then into the place of project.json. A crash at any
/// moment leaves a folder that opens, with the old state or the new one. What another program wrote
/// into the folder meanwhile (a save, an autosave) is kept in history/ as well.
/// @param known  of the last call, or of openProject(); {} for a new folder
Result<SavedState> saveProject(const Project& project, const std::filesystem::path& folder,
                               const SavedState& known);

/// Saves beside project.json, without touching it: what recovery goes by.
Result<SavedState> autosaveProject(const Project& project, const std::filesystem::path& folder,
                                   const SavedState& known);

/// Opens the later of the save and the autosave; the save where an older one was put back by hand.
/// Sounds that are missing or damaged are warned of and leave the rest as it is.
/// @param job  told how far it is; an Error when it is cancelled
Result<OpenedProject> openProject(const std::filesystem::path& folder, JobContext& job);

/// What was heard in a sound, kept beside it; nothing when there is no such file or it cannot be
/// read (the sound is then listened to again).
[[nodiscard]] std::optional<Analysis> readHearing(const std::filesystem::path& path);
Result<void> writeHearing(const std::filesystem::path& path, const Analysis& heard);

struct CheckReport {
  int sources = 0, keys = 0, patterns = 0, sections = 0;
  std::vector<std::string> problems; ///< empty: nothing is missing
};
/// Opens a project and verifies each sound by its content and everything that refers to it.
Result<CheckReport> checkProject(const std::filesystem::path& folder, JobContext& job);

} // namespace tuvvo
