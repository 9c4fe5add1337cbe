// The three recordings of Salt Quay, a night ferry terminal in an invented town, and the beat.
#pragma once

#include "dsp.h"
#include "model/project.h"

#include <string>

namespace tuvvo::demo {

/// Four bars of brass and organ in C minor at 90 BPM, from a disc that runs 34 cents fast.
Buffer makeBrassLoop(const std::string& soundfont);
inline constexpr double kBandBpm = 90, kDiscCents = 34;

/// Eight bars of drums around 96 BPM that wander by 3 %.
Buffer makeBreak(const std::string& soundfont);

/// Night on the quay: engine, ropes, gulls, a horn; no tempo, no key.
Buffer makeQuay();
/// Where things happen in it, in seconds: start and end.
inline constexpr double kHorn[2] = {3.0, 7.4}, kGulls[2] = {9.2, 11.8}, kRope[2] = {13.1, 14.6};

/// The finished beat over the three recordings and the kit.
Project makeBeat(std::vector<Source> kit, Source brass, Source breakSource, Source quay);

} // namespace tuvvo::demo
