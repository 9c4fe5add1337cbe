// Ways to cut a source, and cuts made by hand. All pure; not for the audio thread.
#pragma once

#include "model/project.h"

namespace tuvvo {

/// Cuts made the way the settings say. Cuts that were made by hand stay where they are; new ones
/// keep 20 ms away from their edges.
/// @returns the source's cuts as they were when it has no sound, or no grid to cut by beats
[[nodiscard]] std::vector<Cut> cutSource(const Source& source, const CutSettings& settings);

/// Splits the cut under a place in two, or begins one there up to the next cut.
[[nodiscard]] std::vector<Cut> withCutAdded(const Source& source, Frames at);
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
