// Words, quoted texts and numbers of a text, line by line. Inner part of formats/.
#pragma once

#include <cstdint>
#include <string>
#include <string_view>

namespace tuvvo {

/// The shortest decimal that reads back as the same double.
[[nodiscard]] std::string numberText(double value);
/// In double quotes, with \" and \\ and no line break.
[[nodiscard]] std::string quoted(const std::string& text);

/// Reads a text once, from its start. What is wrong is thrown as Bad, which stays inside formats/.
class TextTokens {
public:
  struct Bad {
    std::string what;
    int line = 1;
  };
  explicit TextTokens(std::string_view text) : m_text(text) { skipEmpty(); }

  [[nodiscard]] bool atEnd() const { return m_at >= m_text.size(); }
  [[nodiscard]] bool atLineEnd();
  [[nodiscard]] int line() const { return m_line; }
  /// Up to a blank, a comma, a colon or the line's end; a comma and a colon are words of their own.
  [[nodiscard]] std::string word();
  /// A quoted text.
  [[nodiscard]] std::string text();
  [[nodiscard]] bool isNext(std::string_view word);
  /// Takes a word if it is the next one.
  bool skip(std::string_view word);
  void expect(std::string_view word);
  /// Takes the rest of a line, which has to be empty, and empty lines after it.
  void endLine();
  [[nodiscard]] double number(double least, double most, std::string_view unit = {});
  [[nodiscard]] std::int64_t whole(std::int64_t least, std::int64_t most);
  [[nodiscard]] std::int64_t wholeOf(const std::string& word, std::int64_t least,
                                     std::int64_t most) const;
  [[noreturn]] void fail(const std::string& what) const { throw Bad{what, m_line}; }

private:
  void skipBlanks();
  void skipEmpty();

  std::string_view m_text;
  std::size_t m_at = 0;
  int m_line = 1;
};

} // namespace tuvvo
