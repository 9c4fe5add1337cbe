#include "arguments.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>

namespace tuvvo::cli {

Arguments::Arguments(const std::vector<std::string>& words,
                     const std::vector<std::string>& withValue,
                     const std::vector<std::string>& flags) {
  const auto in = [](const std::vector<std::string>& all, const std::string& one) {
    return std::find(all.begin(), all.end(), one) != all.end();
  };
  bool only = false; // after -- everything is a plain word
  for (std::size_t i = 0; i < words.size(); ++i) {
    const std::string& word = words[i];
    if (only || word.size() < 2 || word.compare(0, 2, "--") != 0) {
      m_words.push_back(word);
    } else if (word == "--") {
      only = true;
    } else if (in(flags, word)) {
      m_options[word] = "";
    } else if (in(withValue, word)) {
      if (i + 1 >= words.size()) throw WrongUse{word + " needs a value"};
      m_options[word] = words[++i];
    } else {
      throw WrongUse{word + " is not an option of this command"};
    }
  }
}

std::optional<std::string> Arguments::text(const std::string& option) const {
  const auto found = m_options.find(option);
  if (found == m_options.end()) return std::nullopt;
  return found->second;
}

std::string Arguments::needed(const std::string& option) const {
  const auto value = text(option);
  if (!value) throw WrongUse{option + " is needed"};
  return *value;
}

std::optional<double> Arguments::number(const std::string& option, double low, double high) const {
  const auto value = text(option);
  if (!value) return std::nullopt;
  char* end = nullptr;
  const double number = std::strtod(value->c_str(), &end);
  if (value->empty() || *end != '\0' || !std::isfinite(number) || number < low || number > high) {
    char range[64];
    std::snprintf(range, sizeof range, " must be a number from %g to %g", low, high);
    throw WrongUse{option + range};
  }
  return number;
}

} // namespace tuvvo::cli
