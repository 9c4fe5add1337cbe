// How a take was played, in words.
#pragma once

#include "beat/timing.h"

#include <string>

namespace tuvvo {

/// One sentence about what stands out most; empty where there is no take.
[[nodiscard]] std::string sentenceOf(const Project& project, const TimingPicture& picture);

} // namespace tuvvo
