// Hits apart from tones.
#pragma once

#include "base/jobs.h"
#include "base/result.h"
#include "base/units.h"
#include "shape/varispeed.h"

namespace tuvvo {

enum class Kept { Hits, Tones };

/// Median-filter separation (Fitzgerald 2010: what lies still along time is tone, what lies still
/// along frequency is hit) done twice, as both cannot be sharp in one transform (Driedger, Müller,
/// Disch 2014): tones are estimated under a window of 171 ms, hits under one of 43 ms; then the
/// two estimates share the sound out three times over by their powers under a window of 85 ms
/// (Wiener's filter). Hits and tones add up to the sound exactly.
/// bench isolation measures it on rendered mixes.
///
/// Works through the sound in stretches of about twenty seconds, so that memory stays bounded.
/// Not for the audio thread.
/// @param rest  how much of the other part stays; −60 dB is none
/// @returns an Error when the job was cancelled
Result<void> isolate(Channels& sound, Kept keep, Decibels rest, JobContext& job);

} // namespace tuvvo
