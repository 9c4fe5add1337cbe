// Treatments: what is done to a sound after it was cut and brought to the beat. Each is a recipe of
// a few figures that can be opened and changed at any time.
#pragma once

#include "base/convert.h"
#include "model/extra.h"

#include <array>
#include <optional>
#include <span>
#include <string>
#include <vector>

namespace tuvvo {

enum class TreatmentKind {
  Reverse,
  Alternate,
  Speed,
  Octave,
  SlowDown,
  StartUp,
  Stutter,
  Swell,
  Fade,
  Chop,
  Isolate,
  Sides,
  Band,
  Unknown ///< of a newer version: kept as it was read, and not heard
};
inline constexpr std::size_t kTreatments = 13; ///< those that are known
inline constexpr std::size_t kMostFigures = 4;

/// One figure of a treatment. A choice counts its words from 0.
struct FigureKind {
  const char* id;   ///< as in the file
  const char* name; ///< for people
  const char* unit; ///< empty for a choice or a plain number
  double least, most, standard, step;
  int decimals;
  std::vector<const char*> words; ///< of a choice
};

struct TreatmentType {
  const char* id;    ///< as in the file
  const char* name;  ///< for people
  const char* about; ///< one line: what is heard
  std::vector<FigureKind> figures;
};
[[nodiscard]] const TreatmentType& typeOf(TreatmentKind kind);
[[nodiscard]] std::optional<TreatmentKind> treatmentFromId(const std::string& id);

// Places of the figures, by kind.
enum AlternateFigure { kAlternateEvery, kAlternateFirst };
enum SpeedFigure { kSpeedFactor, kSpeedBars, kSpeedMethod };
enum OctaveFigure { kOctaveShift, kOctaveLevel };
enum SlowFigure { kSlowBeats, kSlowCurve };
enum StutterFigure { kStutterDivision, kStutterCount, kStutterRamp, kStutterPitch };
enum SwellFigure { kSwellBeats, kSwellFrom, kSwellTail, kSwellThen };
enum FadeFigure { kFadeWhere, kFadeBeats, kFadeCurve };
enum ChopFigure { kChopDivision, kChopSeed };
enum IsolateFigure { kIsolateKeep, kIsolateRest };
enum SidesFigure { kSidesKeep };
enum BandFigure { kBandKeep, kBandLow, kBandHigh };

struct Treatment {
  TreatmentKind kind = TreatmentKind::Reverse;
  std::array<double, kMostFigures> figures{};
  std::vector<int> order; ///< chop by hand: which piece stands where, from 0; empty: by the seed
  bool on = true;         ///< off: kept, and not heard
  Extra extra{};
  bool operator==(const Treatment&) const = default;

  [[nodiscard]] double figure(std::size_t place) const { return figures[place]; }
  [[nodiscard]] int choice(std::size_t place) const { return toWhole<int>(figures[place] + 0.5); }
};
/// With the figures it usually has.
[[nodiscard]] Treatment treatment(TreatmentKind kind);
/// Brings every figure into its range; an order that is no order of pieces is dropped.
void clamp(Treatment& treatment);
/// "stutter 1/4 × 4": for lists and lineage.
[[nodiscard]] std::string describe(const Treatment& treatment);

inline constexpr std::size_t kMostTreatments = 16; ///< on one sound
inline constexpr std::size_t kMostPieces = 256;    ///< of a chop

} // namespace tuvvo
