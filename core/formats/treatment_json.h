// Treatments as JSON. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/treatment.h"

namespace tuvvo {

[[nodiscard]] json_read::Json toJson(const std::vector<Treatment>& treatments);
/// Reads the field "treatments". Figures are brought into range; a kind that is not known, or a
/// word of one, makes an unknown treatment that is written again as it was.
void readTreatments(json_read::Fields& fields, std::vector<Treatment>& out);

} // namespace tuvvo
