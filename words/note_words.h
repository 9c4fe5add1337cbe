// What a note says.
#pragma once

#include "notes/findings.h"

#include <string>

namespace tuvvo {

struct NoteWords {
  std::string figure; ///< "6.2 LU apart"
  std::string reason; ///< one or two sentences
  std::string action; ///< what doing it does, a few words; also the name of the edit
};

[[nodiscard]] NoteWords wordsOf(const Finding& finding);

} // namespace tuvvo
