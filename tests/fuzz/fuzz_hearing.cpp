// What was heard in a sound, from its file.
#include "formats/analysis_json.h"
#include "formats/json_read.h"
#include "fuzz.h"

using namespace tuvvo;

int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  try {
    const auto heard = analysisFromJson(json_read::parse(fuzz::textOf(bytes, count)));
    if (!heard) return 0;
    const auto again = analysisFromJson(toJson(*heard));
    fuzz::mustHold(again.ok(), "what was written can be read");
  } catch (const json_read::Bad&) {
    // As whoever reads such a file expects.
  }
  return 0;
}
