// The crate's provenance: read, written, read again.
#include "crate/marks.h"
#include "fuzz.h"

using namespace tuvvo;

int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  const auto read = exportFromText(fuzz::textOf(bytes, count), "input");
  if (!read) return 0;
  const std::string once = exportText(read->all);
  const auto again = exportFromText(once, "written");
  fuzz::mustHold(again.ok(), "what was written can be read");
  fuzz::mustHold(exportText(again->all) == once, "what was read is written the same");
  const Extra extra = extraFromText(extraText(read->all.extra));
  fuzz::mustHold(extra == read->all.extra, "what is kept comes back");
  for (const auto& [hash, marks] : read->all.marks) {
    const auto back = marksFromText(marksToText(marks));
    fuzz::mustHold(back && marksToText(*back) == marksToText(marks), "marks come back");
  }
  return 0;
}
