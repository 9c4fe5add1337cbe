// What speaks for the kind of each file, a line of JSON a file: for looking at, and for the
// thresholds in core/listen/kind.cpp.
#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/analyse.h"
#include "listen/kind.h"

#include <cstdio>

using namespace tuvvo;

int main(int argc, char** argv) {
  for (int i = 1; i < argc; ++i) {
    JobContext job;
    const auto file = decodeFile(argv[i], job);
    if (!file) continue;
    const auto mono = resample(monoOf(*file->sound), file->sound->rate(), Hertz(22050));
    const Analysis heard = analyse(*file->sound, job);
    const KindEvidence e = kindEvidence(heard, analyseHarmony(mono, job), mono);
    std::printf("{\"file\":\"%s\",\"kind\":\"%s\",\"duration\":%.2f,\"hits\":%d,\"drums\":%.3f,"
                "\"quiet\":%.3f,\"syllables\":%.3f,\"agreement\":%.3f,\"tonal\":%.3f,\"pulse\":%."
                "3f,\"changes\":%.3f,"
                "\"key\":%.3f,\"loopBars\":%d}\n",
                argv[i], std::string(nameOf(heard.kind.kind)).c_str(), e.duration, e.hits, e.drums,
                e.quiet, e.syllables, e.agreement, e.tonal, e.pulse, e.changes, e.key, e.loopBars);
  }
  return 0;
}
