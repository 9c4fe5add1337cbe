// What slides were called in files before they had ids. Inner part of formats/.
#pragma once

#include <string>
#include <string_view>

namespace tuvvo {

/// Up to schema 1 a taught controller named a slide by a class and a label, which a translation or
/// another word for it would have broken.
/// @returns its id; the name itself where it is none of the old ones
[[nodiscard]] std::string slideFromOldName(const std::string& name);

} // namespace tuvvo
