#include "formats/text_tokens.h"

#include <array>
#include <charconv>
#include <cmath>

namespace tuvvo {

std::string numberText(double value) {
  std::array<char, 32> digits{};
  const auto end = std::to_chars(digits.data(), digits.data() + digits.size(), value).ptr;
  return {digits.data(), end};
}

std::string quoted(const std::string& text) {
  std::string out = "\"";
  for (char c : text) {
    if (c == '"' || c == '\\') out += '\\';
    out += c == '\n' || c == '\r' ? ' ' : c;
  }
  return out + '"';
}

void TextTokens::skipBlanks() {
  while (!atEnd() && (m_text[m_at] == ' ' || m_text[m_at] == '\t' || m_text[m_at] == '\r')) ++m_at;
}

void TextTokens::skipEmpty() {
  for (;;) {
    skipBlanks();
    if (atEnd() || m_text[m_at] != '\n') return;
    ++m_at;
    ++m_line;
  }
}

bool TextTokens::atLineEnd() {
  skipBlanks();
  return atEnd() || m_text[m_at] == '\n';
}

std::string TextTokens::word() {
  if (atLineEnd()) fail("the line ends too early");
  const std::size_t from = m_at;
  if (m_text[m_at] == ',' || m_text[m_at] == ':') {
    ++m_at;
  } else {
    constexpr std::string_view ends = " \t\r\n,:";
    while (!atEnd() && ends.find(m_text[m_at]) == std::string_view::npos) ++m_at;
  }
  return std::string(m_text.substr(from, m_at - from));
}

std::string TextTokens::text() {
  if (atLineEnd() || m_text[m_at] != '"') fail("a name in quotes is missing");
  std::string out;
  for (++m_at; !atEnd() && m_text[m_at] != '\n'; ++m_at) {
    if (m_text[m_at] == '"') {
      ++m_at;
      return out;
    }
    if (m_text[m_at] == '\\' && m_at + 1 < m_text.size() && m_text[m_at + 1] != '\n') ++m_at;
    out += m_text[m_at];
  }
  fail("a quote does not end");
}

bool TextTokens::isNext(std::string_view expected) {
  if (atLineEnd()) return false;
  const std::size_t at = m_at;
  const bool same = word() == expected;
  m_at = at;
  return same;
}

bool TextTokens::skip(std::string_view expected) {
  if (!isNext(expected)) return false;
  (void)word();
  return true;
}

void TextTokens::expect(std::string_view expected) {
  if (!skip(expected)) fail("“" + std::string(expected) + "” is missing");
}

void TextTokens::endLine() {
  if (!atLineEnd()) fail("“" + word() + "” is too much in this line");
  skipEmpty();
}

double TextTokens::number(double least, double most, std::string_view unit) {
  std::string digits = word();
  const std::string as = digits;
  if (!unit.empty()) {
    if (!digits.ends_with(unit)) fail("“" + as + "” has to be in " + std::string(unit));
    digits.resize(digits.size() - unit.size());
  }
  double value = 0;
  const char* end = digits.data() + digits.size();
  const auto read = std::from_chars(digits.data(), end, value);
  if (read.ec != std::errc() || read.ptr != end || !std::isfinite(value))
    fail("“" + as + "” is no number");
  if (value < least || value > most)
    fail("“" + as + "” is not within " + numberText(least) + " and " + numberText(most));
  return value;
}

std::int64_t TextTokens::whole(std::int64_t least, std::int64_t most) {
  return wholeOf(word(), least, most);
}

std::int64_t TextTokens::wholeOf(const std::string& digits, std::int64_t least,
                                 std::int64_t most) const {
  std::int64_t value = 0;
  const char* end = digits.data() + digits.size();
  const auto read = std::from_chars(digits.data(), end, value);
  if (read.ec != std::errc() || read.ptr != end) fail("“" + digits + "” is no whole number");
  if (value < least || value > most)
    fail("“" + digits + "” is not within " + std::to_string(least) + " and " +
         std::to_string(most));
  return value;
}

} // namespace tuvvo
