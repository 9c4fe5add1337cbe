// Buses and their chains in the project file. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/bus.h"

namespace tuvvo {

struct Project;

namespace json_read {

/// Adds what is not standard of a bus, but its level and chain, to an object.
void writeBus(Json& out, const BusSettings& bus);
[[nodiscard]] Json chainToJson(const BusSettings& bus);
/// Reads both; what is left over is for whoever owns the fields.
void readBus(Fields& fields, BusSettings& bus);

/// The buses of rows and sends and the master, as far as they are not standard.
[[nodiscard]] Json busesToJson(const Project& project);
void readBuses(Fields& project, Project& into);

} // namespace json_read
} // namespace tuvvo
