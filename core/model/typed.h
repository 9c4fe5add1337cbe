// Figures as people write them.
#pragma once

#include "base/units.h"
#include "model/parameter.h"

namespace tuvvo {

/// Reads a figure in a unit: "-3st", "+2 dB", "92,5", "1.2k", with any minus sign, a point or a
/// comma, and the unit or one that it is reckoned from: "2 s" for milliseconds, "1 oct" or "50 ct"
/// for semitones, "1 kHz", and a note's name for hertz ("Eb3", A4 = 440 Hz). Beats and ticks, and
/// times where a tempo is known, read note values: "1/8", "1/8d" or "1/8." dotted, "1/8t" of a
/// triplet.
/// @param tempo  of a quarter note
/// @returns nothing for what is no such figure; the range is the caller's
[[nodiscard]] std::optional<double> typed(std::string_view text, Unit unit,
                                          std::optional<Bpm> tempo = {});

} // namespace tuvvo
