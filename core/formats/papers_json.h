// Papers and corrections as JSON: the same words in a project and in the crate's plain export.
#pragma once

#include "model/project.h"

#include <nlohmann/json_fwd.hpp>

namespace tuvvo {

/// Only what is filled in.
[[nodiscard]] nlohmann::ordered_json toJson(const Papers& papers);
[[nodiscard]] nlohmann::ordered_json toJson(const Corrections& corrections);

/// Read back what toJson wrote; texts are cut at 4096 bytes, figures brought into range. Throws
/// json_read::Bad: inside formats/ and crate/ only.
[[nodiscard]] Papers papersFromJson(const nlohmann::ordered_json& json);
[[nodiscard]] Corrections correctionsFromJson(const nlohmann::ordered_json& json);

} // namespace tuvvo
