// Provenance and corrections as JSON: the same words in a project and in the crate's plain export.
// Inner part of formats/ and crate/.
#pragma once

#include "formats/json_read.h"
#include "model/project.h"

namespace tuvvo {

/// Only what is filled in.
[[nodiscard]] json_read::Json toJson(const Provenance& provenance);
[[nodiscard]] json_read::Json toJson(const Corrections& corrections);

/// Read back what toJson wrote; texts are cut at 4096 bytes, figures brought into range. What is
/// not known stays in the fields, for the thing that holds them to keep.
[[nodiscard]] Provenance readProvenance(json_read::Fields& fields);
[[nodiscard]] Corrections readCorrections(json_read::Fields& fields);

} // namespace tuvvo
