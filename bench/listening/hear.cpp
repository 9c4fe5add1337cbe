// The listening bench's own ear, built once for every origin of the corpus with weights that were
// fitted without it. Writes a JSON object a line.
//
//   hear-ORIGIN FILE...             what was heard
//   hear-ORIGIN --evidence FILE...  what the tempo ranker and the search for bars see, for
//   fit_tempo.py
//                                   and fit_bars.py
#include "audio/decode.h"
#include "audio/resample.h"
#include "formats/analysis_json.h"
#include "listen/analyse.h"
#include "listen/bars.h"
#include "listen/onsets.h"
#include "listen/tempo_ranking.h"

#include <cstdio>
#include <cstring>
#include <filesystem>
#include <nlohmann/json.hpp>

using namespace tuvvo;
using Json = nlohmann::ordered_json;

namespace {

Result<Json> heardIn(const std::filesystem::path& path) {
  JobContext job;
  const auto heard = analyseFile(path, job);
  if (!heard) return heard.error();
  return toJson(heard->heard);
}

/// Five digits are enough to fit by.
double digits(double v) { return std::round(v * 1e5) / 1e5; }

Result<Json> evidenceIn(const std::filesystem::path& path) {
  JobContext job;
  const auto decoded = decodeFile(path, job);
  if (!decoded) return decoded.error();
  const Seconds duration = decoded->sound->duration();
  const auto mono = resample(monoOf(*decoded->sound), decoded->sound->rate(), Hertz(22050));
  const OnsetStrength strength = onsetStrength(mono);
  const Harmony harmony = analyseHarmony(mono, job);
  const BeatSense sense = senseBeats(senseInputs(strength, harmony));
  const HitIntervals hits(OnsetFinder().find(mono, job));
  const auto ranked = rankTempos(strength, sense, hits).candidates;
  Json out;
  out["candidates"] = Json::array();
  for (const auto& c : ranked) {
    Json row = {digits(c.bpm), digits(c.pulse)};
    for (double e : c.evidence) row.push_back(digits(e));
    out["candidates"].push_back(std::move(row));
  }
  if (ranked.empty()) return out;
  // On the lattice of the best candidate.
  const Pulse pulse = followPulse(strength, ranked[0].bpm, ranked[0].triplet);
  out["bpm"] = digits(pulse.bpm);
  out["triplet"] = pulse.triplet;
  for (const auto& [at, beats] : pulse.knots) out["knots"].push_back({digits(at), digits(beats)});
  const BarFinder finder(strength, sense, harmony, pulse, duration);
  for (const auto& slots : finder.picture(4).slots)
    for (double v : slots) out["picture"].push_back(digits(v));
  out["meters"] = Json::array();
  for (const auto& e : finder.meterEvidence())
    out["meters"].push_back({e.meter, digits(e.again), digits(e.later), digits(e.stress), e.whole});
  return out;
}

} // namespace

int main(int count, char** arguments) {
  const bool evidence = count > 1 && std::strcmp(arguments[1], "--evidence") == 0;
  for (int i = evidence ? 2 : 1; i < count; ++i) {
    auto out = evidence ? evidenceIn(arguments[i]) : heardIn(arguments[i]);
    if (!out) {
      std::fprintf(stderr, "%s\n", out.error().text().c_str());
      continue;
    }
    Json line = *out;
    line["file"] = std::filesystem::path(arguments[i]).filename().string();
    std::printf("%s\n", line.dump().c_str());
  }
}
