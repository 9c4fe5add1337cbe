// Places of a source that loop: whole bars whose end joins their start.
#pragma once

#include "model/project.h"

namespace tuvvo {

struct LoopQuestion {
  int bars = 4;              ///< 1 to 64
  std::optional<bool> minor; ///< of the chord it sits on: minor or major
  std::optional<int> root;   ///< of that chord, 0 (C) to 11
};

/// Whether a chord is one that a question asks for.
[[nodiscard]] bool asksFor(const LoopQuestion& question, const std::string& chord);

/// A stretch that would be played round and round, and what is heard where its end meets its start:
/// what comes then against what would have come.
struct LoopPlace {
  Frames start, end;
  int firstBar = 0; ///< from 0, counted from the first downbeat
  int bars = 0;
  double levelDb = 0;    ///< the level jumps by so much
  double spectrumDb = 0; ///< mean difference of the spectra in log bands
  double phase = 0;      ///< 0: the waves join, 1: they have nothing in common, 2: they oppose
  double harmony = 0;    ///< 0: the chord that would have come, 1: no tone in common
  double seam = 0;       ///< all of it together, smaller is better
  std::string chord;     ///< that sounds longest in it; empty where none was heard
};

/// Every place that begins on a bar, best seam first. The whole stretch is moved up to 15 ms early,
/// never in length, to where its ends join best.
///
/// The parts of the seam are added with weights that are common practice without a source: 6 dB of
/// level, 6 dB of spectrum, half an opposed wave and no common tone count the same.
/// Not for the audio thread. Pure.
/// @param most  how many are wanted
/// @returns nothing for a source without a sound, without a tempo, or shorter than that
[[nodiscard]] std::vector<LoopPlace> findLoops(const Source& source, const LoopQuestion& question,
                                               std::size_t most = 8);

} // namespace tuvvo
