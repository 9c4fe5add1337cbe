// What controllers were taught.
#include "formats/controllers_json.h"
#include "fuzz.h"

using namespace tuvvo;

int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  const auto read = controllersFromText(fuzz::textOf(bytes, count), "input");
  if (!read) return 0;
  const std::string once = controllersToText(*read);
  const auto again = controllersFromText(once, "written");
  fuzz::mustHold(again.ok(), "what was written can be read");
  fuzz::mustHold(controllersToText(*again) == once, "what was read is written the same");
  return 0;
}
