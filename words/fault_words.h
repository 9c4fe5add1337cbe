// What is wrong with a recording, in words.
#pragma once

#include "listen/analysis.h"

#include <string>

namespace tuvvo {

/// One plain sentence, with what to do about it where something can be done. A kind of a newer
/// version is said by its name.
[[nodiscard]] std::string sentenceOf(const FaultHeard& fault);

} // namespace tuvvo
