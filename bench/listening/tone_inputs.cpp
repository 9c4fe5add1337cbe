// Writes the notes of files by grains, for fit_tones.py: a line "name grains notes cents", then
// that many rows of that many floats; cents are the sound's tuning.
#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/tone_sense.h"

#include <cstdio>
#include <filesystem>

using namespace tuvvo;

int main(int count, char** paths) {
  for (int i = 1; i < count; ++i) {
    JobContext job;
    const auto decoded = decodeFile(paths[i], job);
    if (!decoded) continue;
    const auto mono = resample(monoOf(*decoded->sound), decoded->sound->rate(), Hertz(22050));
    const Harmony harmony = analyseHarmony(mono, job);
    const NoteGrains notes = grainsOf(harmony);
    std::printf("%s %zu %d %.2f\n", std::filesystem::path(paths[i]).filename().c_str(),
                notes.grains.size(), Harmony::kNotes, harmony.tuning.value);
    for (const Notes& grain : notes.grains)
      std::fwrite(grain.data(), sizeof(float), grain.size(), stdout);
  }
}
