// Reads breaks, rebuilds each from its own hits, prints it at its own tempo, and says how alike the
// two begin: one JSON line a file, for breaks.py.
#include "audio/decode.h"
#include "beat/read_break.h"
#include "listen/analyse.h"
#include "model/edits.h"
#include "play/print.h"
#include "support/onset_envelope.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

using namespace tuvvo;
using namespace tuvvo::test;

namespace {

/// The reading rebuilt from its own hits and printed, as the source is: from its first frame.
double rebuiltLike(const Source& source, const BreakReading& reading) {
  Project project;
  Id id = 0, pattern = 0;
  project = withSource(std::move(project), source, &id);
  project.tempo = reading.tempo;
  project = withBreakRebuilt(std::move(project), id, reading, 0, &pattern);
  if (pattern == 0) return 0;
  JobContext job;
  const auto printed = print(compilePattern(project, pattern), {}, job);
  if (!printed) return 0;
  const Grid grid = *gridOf(source);
  auto original = onsetEnvelope(*source.sound), again = onsetEnvelope(**printed);
  const auto lead =
      std::size_t(std::llround(std::max(0.0, grid.downbeat.value) * OnsetStrength::kRate));
  original.erase(original.begin(),
                 original.begin() + std::ptrdiff_t(std::min(lead, original.size())));
  return correlation(original, again);
}

} // namespace

int main(int count, char** paths) {
  for (int i = 1; i < count; ++i) {
    JobContext job;
    const auto decoded = decodeFile(paths[i], job);
    if (!decoded) continue;
    Source source;
    source.name = "break";
    source.sound = decoded->sound;
    source.hash = source.sound->hash();
    source.heard = analyse(*source.sound, job);
    const auto reading = readBreak(source);
    std::printf("{\"path\": \"%s\", \"read\": %s, \"hits\": [", paths[i],
                reading.ok() ? "true" : "false");
    if (reading.ok())
      for (std::size_t h = 0; h < reading->hits.size(); ++h) {
        const ReadHit& hit = reading->hits[h];
        std::printf("%s[%.5f, \"%s\", %s]", h ? ", " : "", hit.at.value,
                    std::string(nameOf(hit.hit)).c_str(), hit.sure ? "true" : "false");
      }
    std::printf("], \"correlation\": %.4f}\n", reading.ok() ? rebuiltLike(source, *reading) : 0.0);
    std::fflush(stdout);
  }
}
