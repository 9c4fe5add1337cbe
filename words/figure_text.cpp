#include "words/figure_text.h"

namespace tuvvo {

std::string withMinusSigns(std::string text) {
  const auto digit = [&](std::size_t at) {
    return at < text.size() && text[at] >= '0' && text[at] <= '9';
  };
  for (std::size_t at = text.size(); at-- > 0;)
    if (text[at] == '-' && digit(at + 1) && (at == 0 || !digit(at - 1)))
      text.replace(at, 1, "\u2212");
  return text;
}

} // namespace tuvvo
