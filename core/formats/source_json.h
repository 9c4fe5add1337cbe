// Sources as JSON. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/project.h"

namespace tuvvo {

[[nodiscard]] json_read::Json toJson(const Source& source);
[[nodiscard]] json_read::Json toJson(const Cut& cut);
/// Figures are brought into range; throws Bad for a source without a proper hash.
[[nodiscard]] Source sourceFromJson(const json_read::Json& json, json_read::Reading& reading);

} // namespace tuvvo
