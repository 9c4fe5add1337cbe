// The fit planner: ways to bring a source to a beat's tempo and key, and what each costs.
#pragma once

#include "model/project.h"

namespace tuvvo {

[[nodiscard]] std::string_view nameOf(FitMethod method);

/// A tone so far out of tune begins to be heard so; see fit.cpp for the source.
inline constexpr double kHeardCents = 5;

/// One way. Figures are of what is heard afterwards; words/fit_words.h says them.
struct FitRow {
  FitMethod method = FitMethod::Repitch;
  Semitones semitones{0}; ///< whole part of the change of pitch
  Cents cents{0};         ///< the rest, −50 to 50
  Bpm resultBpm{0};
  double bpmErrorPercent = 0; ///< of the result against the beat (half and double count as meeting)
  double stretchPercent = 0;  ///< change of length without pitch; 0 for repitch
  Milliseconds gap{0}; ///< re-space: silence after a slice; below 0 it is cut so much shorter
  std::optional<KeyName> resultKey;
  int keyDistance = -1; ///< fifths between the keys, relatives 0; −1 unknown
  double centsOff = 0;  ///< of the result from equal temperament at A4 = 440 Hz
  double cost = 0;      ///< smaller is better; see fit.cpp for the terms
};

struct FitQuestion {
  std::optional<Bpm> bpm; ///< of the source
  std::optional<KeyName> key;
  Cents tuning{0};        ///< of the source
  double hitsASecond = 0; ///< of the source; 0 where there is nothing to re-space
  bool rings = true;      ///< it has tones that a gap or an early end tears; drums hardly have
  Bpm toBpm{90};
  std::optional<KeyName> toKey;
};

/// What is known of a source, put to a beat.
[[nodiscard]] FitQuestion fitQuestion(const Source& source, Bpm toBpm,
                                      std::optional<KeyName> toKey);

/// Steps round the circle of fifths between two keys, a minor key counted as its relative major:
/// 0 is the same notes, 1 differs in one note, up to 6.
[[nodiscard]] int keyDistance(KeyName a, KeyName b);

/// Repitch by whatever meets the tempo exactly (half and double folded in) and by whole semitones
/// that are in tune; stretching and re-spacing to the tempo with the pitch left alone or moved by
/// −6 to 6 semitones; and the very best of every method, wherever between it lies. Best first, at
/// most 12 rows, none within 6 cents of a better one of its method.
[[nodiscard]] std::vector<FitRow> planFit(const FitQuestion& question);

/// Cost of the best of whole semitones, of the exact tempo and of leaving it; quick enough for a
/// whole crate. planFit() may find a way between that costs a little less.
[[nodiscard]] double cheapestFit(const FitQuestion& question);

/// A row of the fit ruler: what a change of pitch by that many semitones gives in a method.
[[nodiscard]] FitRow fitRow(const FitQuestion& question, FitMethod method, Semitones shift);

/// The question turned round: the beat's tempo moved a little, so that the source comes in as it is
/// or by whole semitones, without stretching.
struct BeatMove {
  Bpm tempo;          ///< what the beat's would become
  double percent = 0; ///< of change, signed
  FitRow row;         ///< the repitch; it meets that tempo exactly
};
/// Moves of 4 % at most (more is another beat), best first, at most 4; none for a source without a
/// tempo. The cost of moving the beat is 1.2 a per cent (common practice, no source).
[[nodiscard]] std::vector<BeatMove> planBeat(const FitQuestion& question);

/// The repitch that takes the source to the beat's tempo, half or double if that is nearer.
[[nodiscard]] Semitones repitchToTempo(Bpm from, Bpm to);

} // namespace tuvvo
