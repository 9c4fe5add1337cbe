// Ways to cut a source, and cuts made by hand. All pure; not for the audio thread.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// Cuts made the way the settings say. Cuts that were made by hand stay where they are; new ones
/// keep 20 ms away from their edges.
///
/// Hits: at every hit of the classes wanted, just before its attack. Beats, bars, sections, chords:
/// at the place itself, or just before the attack of a hit that begins up to 20 ms before or 8 ms
/// after it, so that no attack is cut through. Equal parts are exactly equal. A start is moved to a
/// zero crossing common to both channels within 0.3 ms where there is one (never in equal parts).
/// From the downbeat: nothing is cut before it; what stands there is only set aside.
/// @returns the source's cuts as they were when it has no sound, or nothing to cut by: see canCut()
[[nodiscard]] std::vector<Cut> cutSource(const Source& source, const CutSettings& settings);

/// Whether a source has what a way cuts by: beats, bars (a tempo), sections, chords.
[[nodiscard]] bool canCut(const Source& source, CutMode way);

/// The way that suits a source which nobody has cut yet: by beats where it is an exact loop, whose
/// beats stand where they should; else by hits (common practice, no source).
[[nodiscard]] CutMode usualMode(const Source& source);

/// Where a stretch of sound has died away: after its last 5 ms that are within 48 dB of its loudest
/// 5 ms and above −72 dBFS; the end where it does not. (The figures are common practice, no
/// source.)
[[nodiscard]] Frames decayedAt(const Sound& sound, Frames start, Frames end);

/// Cuts where a person tapped while the source played: every tap moved back by how late taps come,
/// then onto the nearest onset if wanted. They count as made by hand.
struct TapSettings {
  Milliseconds late{90}; ///< reaction and output latency together; 0 to 500
  bool toOnset = true;   ///< within 120 ms
};
[[nodiscard]] std::vector<Cut> withTapCuts(const Source& source, std::span<const Seconds> taps,
                                           const TapSettings& settings);
/// The middle distance of taps to the onsets they were meant for: how late this person taps.
/// @returns nothing for fewer than four taps, or where fewer than half lie within 250 ms of an
/// onset
[[nodiscard]] std::optional<Milliseconds> lateOf(const Source& source,
                                                 std::span<const Seconds> taps);

/// Splits the cut under a place in two, or begins one there up to the next cut.
[[nodiscard]] std::vector<Cut> withCutAdded(const Source& source, Frames at);
/// One cut over a stretch: cuts inside it go, those that reach into it end or begin at it.
[[nodiscard]] std::vector<Cut> withCutOver(const Source& source, Frames start, Frames end);
/// Takes a cut away; the one before it, if it touched, grows over its place.
[[nodiscard]] std::vector<Cut> withCutRemoved(const Source& source, Id cut);
/// Moves a cut's start (and the end of the one that touched it), between its neighbours.
[[nodiscard]] std::vector<Cut> withCutStartMoved(const Source& source, Id cut, Frames to);
[[nodiscard]] std::vector<Cut> withCutEndMoved(const Source& source, Id cut, Frames to);

struct SnapReach {
  Milliseconds onset{25};   ///< the nearest onset's cut point within this
  Milliseconds crossing{3}; ///< then the nearest place where both channels rise through zero
};
/// A place brought to the nearest onset, then to a zero crossing common to both channels.
[[nodiscard]] Frames snapped(const Source& source, Frames at, const SnapReach& reach = {});
/// The nearest frame where every channel is at or changes through zero; the same frame when there
/// is none within reach.
[[nodiscard]] Frames nearestCrossing(const Sound& sound, Frames at, Milliseconds reach);

} // namespace tuvvo
