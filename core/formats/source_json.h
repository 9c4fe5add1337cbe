// Sources as JSON. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/project.h"

namespace tuvvo {

[[nodiscard]] json_read::Json toJson(const Source& source);
/// Figures are brought into range; throws Bad for what cannot be.
[[nodiscard]] Source sourceFromJson(const json_read::Json& json);

} // namespace tuvvo
