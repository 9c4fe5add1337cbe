// Prints what the tempo ranker and the search for bars see in files, as JSON lines, for
// fit_bars.py.
#include "audio/decode.h"
#include "audio/resample.h"
#include "listen/bars.h"
#include "listen/onset_strength.h"
#include "listen/tempo_ranking.h"

#include <cstdio>

using namespace tuvvo;

int main(int count, char** paths) {
  for (int i = 1; i < count; ++i) {
    JobContext job;
    const auto decoded = decodeFile(paths[i], job);
    if (!decoded) continue;
    std::printf("{\"path\": \"%s\", \"candidates\": [", paths[i]);
    bool first = true;
    const auto mono = resample(monoOf(*decoded->sound), decoded->sound->rate(), Hertz(22050));
    const OnsetStrength strength = onsetStrength(mono);
    const auto ranked = rankTempos(strength).candidates;
    for (const auto& c : ranked) {
      std::printf("%s[%.4f, %.5f", first ? "" : ", ", c.bpm, c.pulse);
      for (double e : c.evidence) std::printf(", %.5f", e);
      std::printf("]");
      first = false;
    }
    std::printf("]");
    if (!ranked.empty()) {
      // The bar's picture for fit_bars.py, on the lattice of the best candidate.
      const Harmony harmony = analyseHarmony(mono, job);
      const double duration = decoded->sound->duration().value;
      const Pulse pulse = followPulse(strength, ranked[0].bpm, ranked[0].triplet);
      const BarPicture picture = pictureOf(strength, harmony, pulse, duration, 4);
      std::printf(", \"bpm\": %.4f, \"triplet\": %d, \"gain\": %.4f, \"knots\": [", pulse.bpm,
                  pulse.triplet ? 1 : 0, pulse.gain);
      for (std::size_t k = 0; k < pulse.knots.size(); ++k)
        std::printf("%s[%.4f, %.4f]", k ? ", " : "", pulse.knots[k].first, pulse.knots[k].second);
      std::printf("], \"picture\": [");
      for (std::size_t f = 0; f < picture.slots.size(); ++f)
        for (std::size_t s = 0; s < picture.slots[f].size(); ++s)
          std::printf("%s%.4f", f + s ? ", " : "", picture.slots[f][s]);
      std::printf("]");
    }
    std::printf("}\n");
  }
}
