// Prints the features of every rise in files, as JSON lines, for fit_hits.py.
#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/hit_ear.h"

#include <cstdio>

using namespace tuvvo;

int main(int count, char** paths) {
  for (int i = 1; i < count; ++i) {
    JobContext job;
    const auto decoded = decodeFile(paths[i], job);
    if (!decoded) continue;
    const auto mono = resample(monoOf(*decoded->sound), decoded->sound->rate(), Hertz(22050));
    const HitEar ear(mono);
    std::printf("{\"path\": \"%s\", \"rises\": [", paths[i]);
    bool first = true;
    for (int frame : ear.rises(0.03f, 0.02)) {
      std::printf("%s[%.5f", first ? "" : ", ", frame / HitEar::kFramesASecond);
      for (float f : ear.featuresAt(frame)) std::printf(", %.3f", double(f));
      std::printf("]");
      first = false;
    }
    std::printf("]}\n");
  }
}
