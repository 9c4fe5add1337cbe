// What is asked of the crate: never wrong, whatever is typed.
#include "crate/facet.h"
#include "fuzz.h"

using namespace tuvvo;

int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  const Query query = readQuery(fuzz::textOf(bytes, count));
  const BeatNow beat;
  const FacetFilter filter(query, beat);
  Facet facet;
  for (float tempo : {0.0f, 92.0f}) {
    facet.tempo = tempo;
    facet.key = tempo > 0 ? 9 : -1;
    (void)filter.takes(facet);
  }
  return 0;
}
