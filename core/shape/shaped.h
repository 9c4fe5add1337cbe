// What a source's shape makes of its time, and the recipes that follow from it.
#pragma once

#include "model/resolved_source.h"
#include "shape/bake.h"

namespace tuvvo {

/// Played places and the places of the grid that they are pulled to.
struct Anchor {
  double at = 0;     ///< in seconds of the source
  double played = 0; ///< in beats from the first downbeat, on one even line through all beats
  double target = 0; ///< in beats: what "on the grid" means for it
};

/// The marker at a place, or within 20 ms of it: nearer than that there is only one.
[[nodiscard]] const WarpMarker* markerAt(const Shape& shape, double atS);
/// A marker put where it says, instead of the one that was at its place.
[[nodiscard]] Shape withMarker(Shape shape, const WarpMarker& marker);
[[nodiscard]] Shape withoutMarker(Shape shape, Seconds at);
/// Where a shape puts a place, in beats: its marker's, or straightened by the shape's share.
[[nodiscard]] double shapedBeat(const Shape& shape, const Anchor& anchor);

/// Places of a source in beats from its first downbeat, as they are felt: on its even line where it
/// is steady, among the beats as they were played where it is not.
class FeltBeats {
public:
  /// @returns nothing for a source without a tempo
  [[nodiscard]] static std::optional<FeltBeats> of(const ResolvedSource& source);
  [[nodiscard]] double at(Seconds place) const;

private:
  EvenBeats m_even;
  std::vector<Seconds> m_played; ///< empty where it is steady
  double m_first = 0;            ///< which of them is the first downbeat
};

/// What can be pulled straight: bars, beats or hits. A hit belongs to the nearest sixteenth or, if
/// that agrees better with all hits together, the nearest third of a beat, as the beats around it
/// were played; of two hits that belong to one place the louder counts.
[[nodiscard]] std::vector<Anchor> anchorsOf(const ResolvedSource& source, StraightenBy by);

/// Places of the source against places of the result, 0 at the first downbeat of the even line.
/// Stretched and re-spaced sources are as long as the beat's tempo makes them (half and double
/// folded in), repitched ones as long as their pitch does. Markers hold whatever the slide says;
/// what lies between two knots is spread evenly. For a source without a tempo the line is straight.
/// @param shape  the source's own, or a key's
/// @returns at least two knots, rising in both
[[nodiscard]] TimeLine shapedLine(const ResolvedSource& source, const Shape& shape, Bpm beat);

/// How much longer the parts between knots of its own shape become, against the whole: 1 is as the
/// rest.
struct LocalStretch {
  double fromS = 0, toS = 0; ///< of the source
  double ratio = 1;
};
[[nodiscard]] std::vector<LocalStretch> localStretches(const ResolvedSource& source, Bpm beat);

/// Whether a shape may ask for more than playing at its pitch.
[[nodiscard]] bool movesTime(const Shape& shape);

/// The recipe of a stretch of a source under its shape.
/// @param line  shapedLine() of the source and the shape
/// @returns nothing where it can be played straight from the source, at shape.pitch()
[[nodiscard]] std::optional<BakeRecipe> recipeOf(const ResolvedSource& source, const Shape& shape,
                                                 const TimeLine& line, Stretch stretch, Hertz rate);

/// The stretch as it is, at its shape's pitch: for what is treated although nothing moves its time.
[[nodiscard]] BakeRecipe plainRecipe(const Source& source, const Shape& shape, Stretch stretch,
                                     Hertz rate);

} // namespace tuvvo
