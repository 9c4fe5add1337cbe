// Sources and keys as JSON. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/project.h"

namespace tuvvo {

[[nodiscard]] json_read::Json toJson(const Source& source);
[[nodiscard]] json_read::Json toJson(const Key& key);
/// Figures are brought into range; both throw Bad for what cannot be.
[[nodiscard]] Source sourceFromJson(const json_read::Json& json);
[[nodiscard]] Key keyFromJson(const json_read::Json& json);

} // namespace tuvvo
