// Writes the features of every rise in files, for fit_hits.py: a line "name rises values", then
// that many rows of that many floats, the first of each the rise's second.
#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/hit_detector.h"

#include <cstdio>
#include <filesystem>

using namespace tuvvo;

int main(int count, char** paths) {
  for (int i = 1; i < count; ++i) {
    JobContext job;
    const auto decoded = decodeFile(paths[i], job);
    if (!decoded) continue;
    const auto mono = resample(monoOf(*decoded->sound), decoded->sound->rate(), Hertz(22050));
    const HitDetector detector(mono);
    const auto rises = detector.rises(0.03f, 0.02);
    std::printf("%s %zu %d\n", std::filesystem::path(paths[i]).filename().c_str(), rises.size(),
                1 + HitDetector::kFeatures);
    for (int frame : rises) {
      const float at = float(frame / HitDetector::kFramesASecond);
      const auto features = detector.featuresAt(frame);
      std::fwrite(&at, sizeof at, 1, stdout);
      std::fwrite(features.data(), sizeof(float), features.size(), stdout);
    }
  }
}
