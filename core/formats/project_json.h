// The document as JSON: schema version, stable order, one field a line.
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "model/project.h"

namespace tuvvo {

inline constexpr int kProjectSchema = 2; ///< see project_migrations.h
inline constexpr std::int64_t kMostRevision = std::int64_t(1) << 52;

/// Everything but the sounds themselves and what was heard in them, which lie beside it by hash.
/// @param revision  counts saves; the larger of two files is the later one
[[nodiscard]] std::string projectToText(const Project& project, std::int64_t revision);

struct ReadProject {
  Project project; ///< sources without sounds
  std::int64_t revision = 0;
  int schema = kProjectSchema; ///< larger than ours: made by a newer version
  std::vector<std::string> warnings;
};

/// Every count, number and reference is bounded before it is believed. What is not known, what
/// could not be taken as it stands and what points at nothing is kept and written again by
/// projectToText(), with a warning that names it.
/// @param where  names the file in messages
/// @param job    asked whether to go on; may be null
/// @returns an Error for what is no project at all
Result<ReadProject> projectFromText(const std::string& bytes, const std::string& where,
                                    JobContext* job = nullptr);
/// The revision alone, without reading the rest; 0 where there is none.
[[nodiscard]] std::int64_t revisionIn(const std::string& bytes);

} // namespace tuvvo
