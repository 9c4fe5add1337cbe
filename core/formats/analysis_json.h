// A Listening as JSON, with the fixed keys of tuvvo-cli.
#pragma once

#include "base/result.h"
#include "listen/analysis.h"

#include <nlohmann/json_fwd.hpp>

namespace tuvvo {

/// Keys as tuvvo-cli gives them; figures that are infinite are written as null.
[[nodiscard]] nlohmann::ordered_json toJson(const Analysis& heard);
/// Reads back what toJson wrote. Counts are bounded; anything that does not fit is an Error.
Result<Analysis> analysisFromJson(const nlohmann::ordered_json& json);

} // namespace tuvvo
