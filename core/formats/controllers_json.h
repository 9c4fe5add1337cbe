// What controllers were taught, as a file of its own.
#pragma once

#include "base/result.h"
#include "midi/controllers.h"

#include <filesystem>

namespace tuvvo {

[[nodiscard]] std::string controllersToText(const Controllers& controllers);
/// Figures are brought into range.
/// @returns an Error for text that is none of ours
Result<Controllers> controllersFromText(const std::string& text, const std::string& where);

} // namespace tuvvo
