// The document as JSON: schema version, stable order, one field a line.
#pragma once

#include "base/result.h"
#include "model/project.h"

namespace tuvvo {

inline constexpr int kProjectSchema = 1;

/// Everything but the sounds themselves and what was heard in them, which lie beside it by hash.
/// @param revision  counts saves; the larger of two files is the later one
[[nodiscard]] std::string projectToText(const Project& project, std::int64_t revision);

struct ReadProject {
  Project project; ///< sources without sounds
  std::int64_t revision = 0;
  int schema = kProjectSchema; ///< larger than ours: made by a newer version
  std::vector<std::string> warnings;
};

/// Every count, number and reference is bounded or mended (with a warning) before it is believed;
/// fields that are not known are kept and written again.
/// @param where  names the file in messages
Result<ReadProject> projectFromText(const std::string& bytes, const std::string& where);

} // namespace tuvvo
