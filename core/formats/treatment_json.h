// Treatments as JSON. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/treatment.h"

namespace tuvvo {

[[nodiscard]] json_read::Json toJson(const std::vector<Treatment>& treatments);
/// Figures are brought into range. Throws Bad for a kind that is not known.
[[nodiscard]] std::vector<Treatment> treatmentsFromJson(const json_read::Json& list);

} // namespace tuvvo
