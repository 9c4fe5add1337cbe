// What fitting a source to a beat sounds like.
#pragma once

#include "cut/fit.h"

#include <string>

namespace tuvvo {

/// What will be heard: "darker and slower, hardly coloured; −12 ct off". How much of each is heard
/// is common practice, no source.
[[nodiscard]] std::string soundOf(const FitRow& row);

} // namespace tuvvo
