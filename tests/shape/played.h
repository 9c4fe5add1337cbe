// Sources whose beats are known exactly, because they were put there.
#pragma once

#include "support.h"

namespace tuvvo::test {

inline constexpr double kRate = 44100;

/// Clicks on played beats over a tone, with those beats heard exactly.
inline Source played(const std::vector<double>& beatsS, double bpm, bool steady,
                     double toneHz = 0) {
  Samples out(std::size_t((beatsS.back() + 60 / bpm) * kRate), 0.0f);
  if (toneHz > 0) out = sine(toneHz, double(out.size()) / kRate, kRate, 0.2);
  Source source;
  source.heard.emplace();
  Analysis& heard = *source.heard;
  for (std::size_t i = 0; i < beatsS.size(); ++i) {
    addHit(out, beatsS[i], kRate, 1200, 0.5);
    heard.beats.push_back(Seconds(beatsS[i]));
    if (i % 4 == 0) heard.downbeats.push_back(Seconds(beatsS[i]));
    Onset onset;
    onset.at = Seconds(beatsS[i]);
    onset.cut = Seconds(std::max(0.0, beatsS[i] - 0.0005));
    heard.onsets.push_back(onset);
  }
  source.sound = makeSound(std::move(out), kRate);
  heard.duration = source.sound->duration();
  heard.tempo = TempoHeard{Bpm(bpm), 0.9, {}, {}, steady, Milliseconds(steady ? 0 : 30)};
  source.hash = source.sound->hash();
  return source;
}

inline std::vector<double> steadyBeats(double bpm, int count, double from = 0.2) {
  std::vector<double> out;
  for (int i = 0; i < count; ++i) out.push_back(from + i * 60 / bpm);
  return out;
}

inline std::vector<double> wanderingBeats(double bpm, int count) {
  std::vector<double> out{0.2};
  for (int i = 1; i < count; ++i)
    out.push_back(out.back() + 60 / bpm * (1 + 0.03 * std::sin(i * 0.7)));
  return out;
}

} // namespace tuvvo::test
