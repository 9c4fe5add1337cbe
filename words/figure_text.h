// Figures inside sentences.
#pragma once

#include <array>
#include <cstdio>
#include <string>

namespace tuvvo {

/// The text with a minus sign (−) before each figure below zero, where it has a hyphen.
[[nodiscard]] std::string withMinusSigns(std::string text);

/// @param pattern  as of printf(), with conversions of `double` alone; it makes 200 characters at
///                 the most
template <class... Figures>
[[nodiscard]] std::string figureText(const char* pattern, Figures... figures) {
  std::array<char, 200> text{};
  std::snprintf(text.data(), text.size(), pattern, double(figures)...);
  return withMinusSigns(text.data());
}

} // namespace tuvvo
