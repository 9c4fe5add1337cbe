// Where a listener would tap, and where count one: a learnt sense of beats, moment by moment.
#pragma once

#include "listen/harmony.h"
#include "listen/onset_strength.h"

namespace tuvvo {

/// How likely a beat, and the first beat of a bar, is at each moment; 0 to 1, at kRate frames a
/// second. It says nothing exact about time: tempo and phase do (pulse.h).
struct BeatSense {
  static constexpr double kRate = OnsetStrength::kPictureRate;
  std::vector<float> beat, one;
};

/// What the sense hears in one frame: the picture of the onsets, then how much the harmony and its
/// bass change there, over three reaches.
inline constexpr std::array<double, 3> kSenseReachS{0.3, 0.7, 1.4};
inline constexpr int kSenseInputs =
    OnsetStrength::kRises + OnsetStrength::kLevels + 2 * int(kSenseReachS.size());
[[nodiscard]] Matrix senseInputs(const OnsetStrength& strength, const Harmony& harmony);

/// Two layers of gated recurrent units in both directions over the whole sound (after Böck & Schedl
/// 2011, who used long short-term memory). Learnt by bench/listening/fit_beats.py.
/// @param inputs  as senseInputs() gives them
[[nodiscard]] BeatSense senseBeats(Matrix inputs);

} // namespace tuvvo
