// Writes what learnt networks hear in files, for the fits: a line "name rows values cents", then
// that many rows of that many floats; cents are the sound's tuning, where tones are asked for.
//
//   learning-inputs beats FILE...  a row a moment (fit_beats.py)
//   learning-inputs tones FILE...  a row a grain: its notes (fit_tones.py)
//   learning-inputs hits FILE...   a row a rise: its second, then its features (fit_hits.py)
#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/beat_sense.h"
#include "listen/hit_detector.h"
#include "listen/tone_sense.h"

#include <cstdio>
#include <filesystem>

using namespace tuvvo;

namespace {

struct Inputs {
  std::size_t values = 0; ///< in a row
  std::vector<float> rows;
  double cents = 0;
};

Inputs ofBeats(std::span<const float> mono, JobContext& job) {
  return {kSenseInputs, senseInputs(onsetStrength(mono), analyseHarmony(mono, job)).values};
}

Inputs ofTones(std::span<const float> mono, JobContext& job) {
  const Harmony harmony = analyseHarmony(mono, job);
  Inputs out{Harmony::kNotes, {}, harmony.tuning.value};
  for (const Notes& grain : grainsOf(harmony).grains)
    out.rows.insert(out.rows.end(), grain.begin(), grain.end());
  return out;
}

Inputs ofHits(std::span<const float> mono, JobContext&) {
  const HitDetector detector(mono);
  Inputs out{1 + HitDetector::kFeatures, {}};
  for (int frame : detector.rises(0.03f, 0.02)) {
    const auto features = detector.featuresAt(frame);
    out.rows.push_back(float(frame / HitDetector::kFramesASecond));
    out.rows.insert(out.rows.end(), features.begin(), features.end());
  }
  return out;
}

} // namespace

int main(int count, char** arguments) {
  const std::string_view what = count > 1 ? arguments[1] : "";
  const auto inputsOf = what == "beats"   ? ofBeats
                        : what == "tones" ? ofTones
                        : what == "hits"  ? ofHits
                                          : nullptr;
  if (!inputsOf) {
    std::fprintf(stderr, "usage: learning-inputs beats|tones|hits FILE...\n");
    return 2;
  }
  for (int i = 2; i < count; ++i) {
    JobContext job;
    const auto decoded = decodeFile(arguments[i], job);
    if (!decoded) {
      std::fprintf(stderr, "%s\n", decoded.error().text().c_str());
      continue;
    }
    const auto mono = resample(monoOf(*decoded->sound), decoded->sound->rate(), Hertz(22050));
    const Inputs inputs = inputsOf(mono, job);
    std::printf("%s %zu %zu %.2f\n", std::filesystem::path(arguments[i]).filename().c_str(),
                inputs.rows.size() / inputs.values, inputs.values, inputs.cents);
    std::fwrite(inputs.rows.data(), sizeof(float), inputs.rows.size(), stdout);
  }
}
