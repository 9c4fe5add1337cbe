// Keys as JSON. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/key.h"

namespace tuvvo {

inline constexpr std::array kMethods{"repitch", "stretch", "respace"}; ///< by FitMethod

[[nodiscard]] json_read::Json toJson(const Key& key);
/// Figures are brought into range; throws Bad for a key on a row that is not known.
[[nodiscard]] Key keyFromJson(const json_read::Json& json, json_read::Reading& reading);

} // namespace tuvvo
