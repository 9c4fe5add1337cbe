// Whole patterns and chosen hits of them. All pure.
#pragma once

#include "beat/hits.h"

#include <functional>

namespace tuvvo {

// ---- Choosing -----------------------------------------------------------------------------------

/// Where in a beat a hit stands, by a foot that taps the meter's pulse.
enum class BeatClass {
  Downbeats, ///< the first of a bar
  OnBeats,   ///< every pulse
  Backbeats, ///< every second pulse: two and four
  OffBeats,  ///< half way between pulses
  Between    ///< whatever stands on none of these
};
[[nodiscard]] BeatClass classOf(Beats at,
                                Meter meter); ///< OnBeats for pulses that are not backbeats
/// The hits of a part that stand in a class; OnBeats are all pulses, the others among them.
[[nodiscard]] std::vector<Hit> hitsOf(const Pattern& pattern, Id part, BeatClass which);

// ---- Changing what is chosen --------------------------------------------------------------------

/// Hits with their part: what is chosen, copied and pasted.
struct HitOf {
  Id part = 0;
  Hit hit;
  bool operator==(const HitOf&) const = default;
};
using HitClip = std::vector<HitOf>;

[[nodiscard]] Pattern without(Pattern pattern, const HitClip& chosen);
/// What they become by a change, in the same order; places are held inside their lanes.
[[nodiscard]] HitClip changed(const Pattern& pattern, HitClip chosen,
                              const std::function<void(Hit&)>& change);
/// Takes the chosen ones away and lays the others.
[[nodiscard]] Pattern withReplaced(Pattern pattern, const HitClip& chosen, const HitClip& by);

/// Stretches places and lengths about the first hit: 2 is half as fast. What falls past its lane's
/// end is left out.
/// @param factor  1/16 to 16
[[nodiscard]] HitClip stretched(const Pattern& pattern, HitClip chosen, double factor);
/// Lays a clip with its first hit at a place, so many times after one another, each `span` later
/// (0: by its own length, up to whole beats). What falls past a lane's end is left out; parts that
/// the pattern's project does not have are the caller's to leave out.
[[nodiscard]] Pattern withPasted(Pattern pattern, const HitClip& clip, Beats at, int times,
                                 Beats span);
/// From the first hit's place to behind the last one, up to whole beats.
[[nodiscard]] Beats spanOf(const HitClip& clip);

// ---- Whole patterns -----------------------------------------------------------------------------

/// One pattern after another, the second's hits heard as they were there: where the feel of a lane
/// differs, they get the micro-timing that lets them sound at their places. As many bars as fit
/// into kMostBars. In the first one's meter; a second one in another is laid by its beats.
[[nodiscard]] Pattern joined(const Project& project, const Pattern& first, const Pattern& second);
/// The bars of a pattern from one on, as a pattern of its own.
/// @param from  bar, from 0; @param bars  at least 1, held inside
[[nodiscard]] Pattern barsOf(const Pattern& pattern, int from, int bars);
/// Lanes of their own length written out over the pattern, as they are heard in its first round.
[[nodiscard]] Pattern writtenOut(Pattern pattern);
/// Another meter: hits keep their places in beats; bars are as many as are needed to hold them.
[[nodiscard]] Pattern withMeter(Pattern pattern, Meter meter);

/// Adds a copy of a pattern that is an alternative of it: same family.
[[nodiscard]] Project withAlternative(Project project, Id pattern, Id* added);
/// All of a pattern's family, it among them, in the project's order.
[[nodiscard]] std::vector<PatternPtr> familyOf(const Project& project, Id pattern);
/// Every section that plays one of its family plays this one.
[[nodiscard]] Project withFamilyPlaying(Project project, Id pattern);

} // namespace tuvvo
