// The command line taken apart.
#pragma once

#include <map>
#include <optional>
#include <string>
#include <vector>

namespace tuvvo::cli {

/// Wrong use: exit code 2 with the message.
struct WrongUse {
  std::string message;
};

/// Plain words and --options; throws WrongUse for options that are not known or lack a value.
class Arguments {
public:
  /// @param withValue  options that take a value
  /// @param flags      options that take none
  Arguments(const std::vector<std::string>& words, const std::vector<std::string>& withValue,
            const std::vector<std::string>& flags);

  [[nodiscard]] const std::vector<std::string>& words() const { return m_words; }
  [[nodiscard]] bool has(const std::string& option) const { return m_options.contains(option); }
  [[nodiscard]] std::optional<std::string> text(const std::string& option) const;
  [[nodiscard]] std::string needed(const std::string& option) const;
  /// A number in a range; throws WrongUse for anything else.
  [[nodiscard]] std::optional<double> number(const std::string& option, double low,
                                             double high) const;

private:
  std::vector<std::string> m_words;
  std::map<std::string, std::string> m_options;
};

} // namespace tuvvo::cli
