// Writes what the sense of beats hears in files, for fit_beats.py: a line "name frames values",
// then that many rows of that many floats.
#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/beat_sense.h"

#include <cstdio>
#include <filesystem>

using namespace tuvvo;

int main(int count, char** paths) {
  for (int i = 1; i < count; ++i) {
    JobContext job;
    const auto decoded = decodeFile(paths[i], job);
    if (!decoded) continue;
    const auto mono = resample(monoOf(*decoded->sound), decoded->sound->rate(), Hertz(22050));
    const Matrix inputs = senseInputs(onsetStrength(mono), analyseHarmony(mono, job));
    std::printf("%s %d %d\n", std::filesystem::path(paths[i]).filename().c_str(), inputs.rows,
                inputs.columns);
    std::fwrite(inputs.values.data(), sizeof(float), inputs.values.size(), stdout);
  }
}
