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
  Provenance provenance;
  Corrections corrections;
  Extra extra{};
  bool operator==(const Marks&) const = default;
};

/// Everything that a crate could not find out again by listening.
struct CrateExport {
  std::vector<std::string> folders;            ///< watched
  std::map<std::string, std::string> searches; ///< by name
  std::map<std::string, Marks> marks;          ///< by the hash of the sound
  std::map<std::string, std::string> names;    ///< of the sounds, for people who read the file
  Extra extra{};                               ///< what else the file said
};
inline constexpr int kProvenanceSchema = 2; ///< 1: provenance was called papers

[[nodiscard]] std::string marksToText(const Marks& marks);
/// Nothing for what is no marks.
[[nodiscard]] std::optional<Marks> marksFromText(const std::string& text);
/// What marksToText() wrote for crates of schema 1, as it writes it now; what it cannot read it
/// leaves alone.
[[nodiscard]] std::string marksTextFrom1(const std::string& text);

/// As plain JSON, with everything that was not known when it was read.
[[nodiscard]] std::string exportText(const CrateExport& all);
struct ReadExport {
  CrateExport all;
  int schema = kProvenanceSchema; ///< larger than ours: written by a newer version
  std::string notKnown; ///< empty: all of it is known; else what is kept without being used
};
/// Words, fields and entries that are not known are kept beside those that are.
/// @param where  names the file in messages
[[nodiscard]] Result<ReadExport> exportFromText(const std::string& bytes, const std::string& where);

/// What was not known, as one text for the crate's database.
[[nodiscard]] std::string extraText(const Extra& extra);
[[nodiscard]] Extra extraFromText(const std::string& text);

/// Provenance as the tags of a file tell them (by TagLib): title, artist, album, year, comment,
/// copyright; texts are cut at 1000 bytes. Empty where there are none.
[[nodiscard]] Provenance provenanceFromTags(const std::filesystem::path& path);

} // namespace tuvvo
