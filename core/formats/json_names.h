// Enumerations and ids in the project file. Inner part of formats/.
#pragma once

#include "formats/json_read.h"
#include "model/project.h"

namespace tuvvo::json_read {

// Names as they stand in the file; the order is that of the enumerations.
inline constexpr std::array kRows{"cuts", "air", "body", "floor"};

template <class Enum, std::size_t N>
Enum choice(const Json& object, const char* name, const std::array<const char*, N>& names) {
  const std::string given = text(object, name, names[0]);
  for (std::size_t i = 0; i < N; ++i)
    if (given == names[i]) return Enum(i);
  throw Bad{"\"" + given + "\" is no value for \"" + name + "\""};
}

template <class Enum, std::size_t N>
const char* nameIn(const std::array<const char*, N>& names, Enum value) {
  return names[std::size_t(value)];
}

inline Id idFrom(const Json& object, const char* name = "id") {
  return Id(integer(object, name, 0, 0xfffffffe, 0));
}

} // namespace tuvvo::json_read
