// The drums and the demonstration that ship in the data folder.
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "model/project.h"

#include <filesystem>

namespace tuvvo {

/// Where the data lies: the environment's TUVVO_DATA, else beside the program (../share/tuvvo),
/// else the folder that the build was made from.
[[nodiscard]] std::filesystem::path dataFolder();

/// The provenance of a sound that ships: made for Tuvvo, free to use.
[[nodiscard]] Provenance shippedProvenance(const std::string& title);

/// A new project: 90 BPM, the kit on the deck's Air, Body and Floor rows, one empty pattern, one
/// section. When the kit cannot be read the deck is empty and the message says so.
struct NewProject {
  Project project;
  std::vector<std::string> warnings;
};
[[nodiscard]] NewProject newProject(const std::filesystem::path& data, JobContext& job);

/// The Salt Quay demonstration, with its sounds.
Result<Project> shippedDemo(const std::filesystem::path& data, JobContext& job);

} // namespace tuvvo
