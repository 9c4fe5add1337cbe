// Files of earlier versions, brought to the newest one step after the other. Inner part of formats/
// and crate/.
#pragma once

#include "formats/json_read.h"

#include <span>

namespace tuvvo {

/// Changes a whole file from one schema to the next; what it does not know it leaves alone.
using Migration = void (*)(json_read::Json& file);

/// The steps from schema 1 on: the first makes 2 of 1, and so on. A file without a number has
/// schema 1; one that is newer than all steps stays as it is.
/// @returns the schema it had
int migrate(json_read::Json& file, std::span<const Migration> steps);

} // namespace tuvvo
