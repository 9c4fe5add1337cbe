// Everything that can be turned, by its id.
#pragma once

#include "model/parameter.h"

#include <string>
#include <vector>

namespace tuvvo {

struct NamedParameter {
  std::string id; ///< as files, controllers and the command line have it: "part.duck-back"
  const Parameter* parameter = nullptr; ///< lives as long as the program
};

/// Of keys, treatments, hits, feels, buses, ducks and processors, in this order. Not for the audio
/// thread.
[[nodiscard]] std::vector<NamedParameter> everyParameter();

} // namespace tuvvo
