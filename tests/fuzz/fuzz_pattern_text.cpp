// Patterns as text: read, written, read again.
#include "formats/pattern_text.h"
#include "fuzz.h"

using namespace tuvvo;

int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  const auto read = patternFromText({}, fuzz::textOf(bytes, count));
  if (!read) {
    fuzz::mustHold(!read.error().what.empty(), "a message");
    return 0;
  }
  (void)patternText(read->project, read->pattern);
  return 0;
}
