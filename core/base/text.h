// Text that comes from outside: names, paths, libraries' messages.
#pragma once

#include <string>
#include <string_view>

namespace tuvvo {

/// As it can be shown on a terminal or in a window without doing anything there: control
/// characters, marks that turn the direction of writing, and bytes that are no UTF-8 come out as
/// \n, \t, \x1b or \u202e (RFC 3629 for what is UTF-8).
[[nodiscard]] std::string shown(std::string_view text);

/// The longest beginning of a text that has no more than so many bytes and does not end inside a
/// character (RFC 3629). Bytes that are no UTF-8 count as characters.
[[nodiscard]] std::string_view beginningOf(std::string_view text, std::size_t mostBytes);

/// With a to z for A to Z; every other byte stays, so UTF-8 stays whole and no locale has a say.
[[nodiscard]] std::string lowerCase(std::string text);

} // namespace tuvvo
