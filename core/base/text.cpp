#include "base/text.h"

#include <cstdint>
#include <cstdio>

namespace tuvvo {

namespace {

/// Bytes of the character at a place; 0 for what is no UTF-8.
std::size_t lengthAt(std::string_view text, std::size_t at, std::uint32_t& code) {
  const auto byte = [&](std::size_t i) { return std::uint32_t(std::uint8_t(text[i])); };
  const std::uint32_t first = byte(at);
  const std::size_t length = first < 0x80                    ? 1
                             : first >= 0xc2 && first < 0xe0 ? 2
                             : first >= 0xe0 && first < 0xf0 ? 3
                             : first >= 0xf0 && first < 0xf5 ? 4
                                                             : 0;
  if (length == 0 || at + length > text.size()) return 0;
  code = length == 1 ? first : first & (0x7fu >> length);
  for (std::size_t i = 1; i < length; ++i) {
    if ((byte(at + i) & 0xc0) != 0x80) return 0;
    code = code << 6 | (byte(at + i) & 0x3f);
  }
  constexpr std::uint32_t least[] = {0, 0, 0x80, 0x800, 0x10000};
  return code < least[length] || code > 0x10ffff || (code >= 0xd800 && code < 0xe000) ? 0 : length;
}

/// Characters that change the order of those beside them (Unicode Standard Annex #9, section 2),
/// and those that end lines.
bool turnsWriting(std::uint32_t code) {
  return code == 0x061c || code == 0x200e || code == 0x200f || (code >= 0x202a && code <= 0x202e) ||
         (code >= 0x2066 && code <= 0x2069) || code == 0x2028 || code == 0x2029;
}

} // namespace

std::string shown(std::string_view text) {
  std::string out;
  out.reserve(text.size());
  char escaped[16];
  for (std::size_t at = 0; at < text.size();) {
    std::uint32_t code = 0;
    const std::size_t length = lengthAt(text, at, code);
    const bool control = code < 0x20 || (code >= 0x7f && code < 0xa0);
    if (length > 0 && !control && !turnsWriting(code)) {
      out += text.substr(at, length);
    } else if (length > 0 && (code == '\n' || code == '\t' || code == '\r')) {
      out += code == '\n' ? "\\n" : code == '\t' ? "\\t" : "\\r";
    } else {
      const bool byte = length == 0 || code < 0x100;
      std::snprintf(escaped, sizeof escaped, byte ? "\\x%02x" : "\\u%04x",
                    length == 0 ? unsigned(std::uint8_t(text[at])) : unsigned(code));
      out += escaped;
    }
    at += length > 0 ? length : 1;
  }
  return out;
}

std::string_view beginningOf(std::string_view text, std::size_t mostBytes) {
  if (text.size() <= mostBytes) return text;
  std::uint32_t code = 0;
  // The character that would be cut begins at most three bytes earlier.
  for (std::size_t back = 1; back <= 3 && back <= mostBytes; ++back) {
    const std::size_t length = lengthAt(text, mostBytes - back, code);
    if (length > 0) return text.substr(0, length > back ? mostBytes - back : mostBytes);
  }
  return text.substr(0, mostBytes);
}

std::string lowerCase(std::string text) {
  for (char& c : text)
    if (c >= 'A' && c <= 'Z') c = char(c - 'A' + 'a');
  return text;
}

} // namespace tuvvo
