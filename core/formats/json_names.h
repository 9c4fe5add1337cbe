// Enumerations and ids in the project file. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/project.h"

namespace tuvvo::json_read {

// Names as they stand in the file; the order is that of the enumerations.
inline constexpr std::array kRows{"cuts", "air", "body", "floor"};

/// 0 where there is none. Ids that are referred to are not given again.
inline Id idFrom(Fields& fields, const char* name = "id") {
  const auto id = std::uint64_t(fields.integer(name, 0, std::int64_t(kHighestId), 0));
  fields.reading().keepId(id);
  return Id(id);
}

} // namespace tuvvo::json_read
