// Whole patterns and chosen pins of them. All pure.
#pragma once

#include "beat/pins.h"

#include <functional>

namespace tuvvo {

// ---- Choosing -----------------------------------------------------------------------------------

/// Where in a beat a pin stands, by a foot that taps the meter's pulse.
enum class BeatClass {
  Downbeats, ///< the first of a bar
  OnBeats,   ///< every pulse
  Backbeats, ///< every second pulse: two and four
  OffBeats,  ///< half way between pulses
  Between    ///< whatever stands on none of these
};
[[nodiscard]] BeatClass classOf(Beats at,
                                Meter meter); ///< OnBeats for pulses that are not backbeats
/// The pins of a part that stand in a class; OnBeats are all pulses, the others among them.
[[nodiscard]] std::vector<Pin> pinsOf(const Pattern& pattern, Id part, BeatClass which);

// ---- Changing what is chosen --------------------------------------------------------------------

/// Pins with their part: what is chosen, copied and pasted.
struct PinOf {
  Id part = 0;
  Pin pin;
  bool operator==(const PinOf&) const = default;
};
using PinClip = std::vector<PinOf>;

[[nodiscard]] Pattern without(Pattern pattern, const PinClip& chosen);
/// What they become by a change, in the same order; places are held inside their lanes.
[[nodiscard]] PinClip changed(const Pattern& pattern, PinClip chosen,
                              const std::function<void(Pin&)>& change);
/// Takes the chosen ones away and lays the others.
[[nodiscard]] Pattern withReplaced(Pattern pattern, const PinClip& chosen, const PinClip& by);

/// Stretches places and lengths about the first pin: 2 is half as fast. What falls past its lane's
/// end is left out.
/// @param factor  1/16 to 16
[[nodiscard]] PinClip stretched(const Pattern& pattern, PinClip chosen, double factor);
/// Velocities from one to another, evenly by place.
[[nodiscard]] PinClip ramped(PinClip chosen, double from, double to);
/// Lays a clip with its first pin at a place, so many times after one another, each `span` later
/// (0: by its own length, up to whole beats). What falls past a lane's end is left out; parts that
/// the pattern's project does not have are the caller's to leave out.
[[nodiscard]] Pattern withPasted(Pattern pattern, const PinClip& clip, Beats at, int times,
                                 Beats span);
/// From the first pin's place to behind the last one, up to whole beats.
[[nodiscard]] Beats spanOf(const PinClip& clip);

// ---- Whole patterns -----------------------------------------------------------------------------

/// One pattern after another, the second's pins heard as they were there: where the feel of a lane
/// differs, they lean so that they sound at their places. As many bars as fit into kMostBars. In
/// the first one's meter; a second one in another is laid by its beats.
[[nodiscard]] Pattern joined(const Project& project, const Pattern& first, const Pattern& second);
/// The bars of a pattern from one on, as a pattern of its own.
/// @param from  bar, from 0; @param bars  at least 1, held inside
[[nodiscard]] Pattern barsOf(const Pattern& pattern, int from, int bars);
/// Lanes of their own length written out over the pattern, as they are heard in its first round.
[[nodiscard]] Pattern writtenOut(Pattern pattern);
/// Another meter: pins keep their places in beats; bars are as many as are needed to hold them.
[[nodiscard]] Pattern withMeter(Pattern pattern, Meter meter);

/// Adds a copy of a pattern that is an alternative of it: same family.
[[nodiscard]] Project withAlternative(Project project, Id pattern, Id* added);
/// All of a pattern's family, it among them, in the project's order.
[[nodiscard]] std::vector<PatternPtr> familyOf(const Project& project, Id pattern);
/// Every section that plays one of its family plays this one.
[[nodiscard]] Project withFamilyPlaying(Project project, Id pattern);

} // namespace tuvvo
