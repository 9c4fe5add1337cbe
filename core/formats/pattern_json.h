// Patterns and grooves in the project file. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/project.h"

namespace tuvvo {

[[nodiscard]] json_read::Json toJson(const Pattern& pattern);
[[nodiscard]] json_read::Json toJson(const Groove& groove);
/// A pin as it stands in a file and on the clipboard.
[[nodiscard]] json_read::Json toJson(const Pin& pin);
/// @param meter  of the project, for patterns that do not say one
/// Throw json_read::Bad for what is none.
[[nodiscard]] Pattern patternFromJson(const json_read::Json& json, Meter meter);
[[nodiscard]] Groove grooveFromJson(const json_read::Json& json);
[[nodiscard]] Pin pinFromJson(const json_read::Json& json);
/// "meter", or "beatsPerBar" of older files.
[[nodiscard]] Meter meterIn(const json_read::Json& json);

} // namespace tuvvo
