// What a person said about a sound, kept by its content: wherever the file goes, it is known again.
#pragma once

#include "base/result.h"
#include "model/project.h"

#include <filesystem>
#include <map>

namespace tuvvo {

struct Marks {
  int stars = 0; ///< 0 to 5
  std::vector<std::string> tags;
  Papers papers;
  Corrections corrections;
  bool operator==(const Marks&) const = default;
};

/// Everything that a crate could not find out again by listening.
struct CrateExport {
  std::vector<std::string> folders;            ///< watched
  std::map<std::string, std::string> searches; ///< by name
  std::map<std::string, Marks> marks;          ///< by the hash of the sound
  std::map<std::string, std::string> names;    ///< of the sounds, for people who read the file
};

[[nodiscard]] std::string marksToText(const Marks& marks);
/// Nothing for what is no marks.
[[nodiscard]] std::optional<Marks> marksFromText(const std::string& text);

/// As plain JSON, safely written.
Result<void> writeExport(const std::filesystem::path& path, const CrateExport& all);
/// What can be read of it; single entries that are damaged are left out and counted. A file that
/// is not there is an empty export.
struct ReadExport {
  CrateExport all;
  int damaged = 0;
};
Result<ReadExport> readExport(const std::filesystem::path& path);

/// Papers as the tags of a file tell them (by TagLib): title, artist, album, year, comment,
/// copyright; texts are cut at 1000 bytes. Empty where there are none.
[[nodiscard]] Papers papersFromTags(const std::filesystem::path& path);

} // namespace tuvvo
