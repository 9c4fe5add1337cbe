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

// Parts that steps are made of. All of them do nothing where something is not as they expect.

/// Gives a field another name, in its place; not where there is one with that name already.
void renameField(json_read::Json& object, std::string_view from, std::string_view to);
/// Each object in the list of that name.
void eachIn(json_read::Json& object, std::string_view list,
            const std::function<void(json_read::Json&)>& act);
/// The object of that name.
void inside(json_read::Json& object, std::string_view name,
            const std::function<void(json_read::Json&)>& act);

/// Of schema 1: one permission for everything.
void provenanceFrom1(json_read::Json& provenance);

} // namespace tuvvo
