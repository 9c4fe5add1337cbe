// Patterns and grooves in the project file. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/project.h"

namespace tuvvo {

[[nodiscard]] json_read::Json toJson(const Pattern& pattern);
[[nodiscard]] json_read::Json toJson(const Groove& groove);
[[nodiscard]] json_read::Json toJson(const Lane& lane);
/// A hit as it stands in a file and on the clipboard.
[[nodiscard]] json_read::Json toJson(const Hit& hit);
/// @param meter  of the project, for patterns that do not say one
/// Throw json_read::Bad for what is none.
[[nodiscard]] Pattern patternFromJson(const json_read::Json& json, Meter meter,
                                      json_read::Reading& reading);
[[nodiscard]] Groove grooveFromJson(const json_read::Json& json, json_read::Reading& reading);
[[nodiscard]] Hit hitFromJson(const json_read::Json& json, json_read::Reading& reading);
/// "meter", or "beatsPerBar" of older files.
/// Throws json_read::Bad for what is no meter.
[[nodiscard]] Meter meterIn(json_read::Fields& fields);
/// The same; what is no meter is told, and four quarters stand for it.
[[nodiscard]] Meter anyMeterIn(json_read::Fields& fields);

} // namespace tuvvo
