// Treatments: what is done to a sound after it was cut and brought to the beat. Each is a recipe of
// a few settings that can be opened and changed at any time.
#pragma once

#include "base/units.h"
#include "model/extra.h"
#include "model/fit_method.h"
#include "model/parameter.h"

#include <optional>
#include <span>
#include <string>
#include <variant>
#include <vector>

namespace tuvvo {

/// The settings of each kind. Beats are quarters, as figures: they may be any fraction.
namespace treat {

/// Last to first.
struct Reverse {
  bool operator==(const Reverse&) const = default;
};
/// Forward and reversed in turn.
struct Alternate {
  enum class First { Forward, Reversed };
  double everyBeats = 1; ///< 1/16 to 8
  First first = First::Forward;
  bool operator==(const Alternate&) const = default;
};
/// The beginning at half or twice its speed, over bars; over all of it where there are none.
struct Speed {
  enum class To { HalfTime, DoubleTime };
  To to = To::HalfTime;
  int bars = 0; ///< of the result; 0 to 16
  FitMethod method = FitMethod::Stretch;
  bool operator==(const Speed&) const = default;
};
/// A copy an octave or two away, under or over it.
struct Octave {
  int octaves = -1;   ///< −2 to 2
  Decibels level{-6}; ///< −30 to 6
  bool operator==(const Octave&) const = default;
};
/// Its end runs down to a stop.
struct SlowDown {
  double beats = 2; ///< 1/16 to 16
  double curve = 1; ///< 0.2 to 5
  bool operator==(const SlowDown&) const = default;
};
/// Its beginning comes up from a stop.
struct StartUp {
  double beats = 1; ///< 1/16 to 16
  double curve = 1; ///< 0.2 to 5
  bool operator==(const StartUp&) const = default;
};
/// Its beginning again and again, then it goes on.
struct Stutter {
  double divisionBeats = 0.25; ///< 1/16 to 4
  int count = 4;               ///< 2 to 64
  Decibels ramp{0};            ///< −24 to 24
  Semitones pitch{0};          ///< −24 to 24
  bool operator==(const Stutter&) const = default;
};
/// Its tail turned round, rising into its first frame.
struct Swell {
  enum class From { Decay, Reverberation };
  enum class Then { Sound, Nothing };
  double beats = 2; ///< 1/16 to 16
  From from = From::Reverberation;
  Seconds tail{2}; ///< of the reverberation; 0.2 to 8
  Then then = Then::Sound;
  bool operator==(const Swell&) const = default;
};
/// Comes in or goes out.
struct Fade {
  enum class Where { In, Out };
  Where where = Where::Out;
  double beats = 2; ///< 1/16 to 64
  double curve = 1; ///< 0.2 to 5
  bool operator==(const Fade&) const = default;
};
/// Pieces in another order, by a seed or by hand.
struct Chop {
  double divisionBeats = 0.5; ///< 1/16 to 8
  int seed = 1;               ///< 1 to 9999
  std::vector<int> order;     ///< which piece stands where, from 0; empty: by the seed
  bool operator==(const Chop&) const = default;
};
/// Hits apart from tones.
struct Isolate {
  enum class Keep { Hits, Tones };
  Keep keep = Keep::Hits;
  Decibels rest{-60}; ///< −60 (gone) to 0
  bool operator==(const Isolate&) const = default;
};
/// What both channels share, or what they do not.
struct Sides {
  enum class Keep { Centre, Sides };
  Keep keep = Keep::Centre;
  bool operator==(const Sides&) const = default;
};
/// Low, middle or high; together they are the whole again.
struct Band {
  enum class Keep { Low, Middle, High };
  Keep keep = Keep::Low;
  Hertz low{200};   ///< 40 to 2000
  Hertz high{2500}; ///< 400 to 16000, and at least half as high again as `low`
  bool operator==(const Band&) const = default;
};
/// Of a newer version: kept as it was read, and not heard.
struct Unknown {
  bool operator==(const Unknown&) const = default;
};

} // namespace treat

struct Treatment {
  using What =
      std::variant<treat::Reverse, treat::Alternate, treat::Speed, treat::Octave, treat::SlowDown,
                   treat::StartUp, treat::Stutter, treat::Swell, treat::Fade, treat::Chop,
                   treat::Isolate, treat::Sides, treat::Band, treat::Unknown>;
  What what;
  bool on = true; ///< off: kept, and not heard
  Extra extra{};
  bool operator==(const Treatment&) const = default;

  template <class Kind> [[nodiscard]] bool is() const { return std::holds_alternative<Kind>(what); }
  /// Null for another kind.
  template <class Kind> [[nodiscard]] const Kind* as() const { return std::get_if<Kind>(&what); }
  template <class Kind> [[nodiscard]] Kind* as() { return std::get_if<Kind>(&what); }
};

/// One setting of a treatment, its id as in the file. A choice counts its words from 0. Only for
/// treatments of its kind.
using TreatmentParameter = FigureOf<Treatment>;

struct TreatmentType {
  std::string_view id;    ///< as in the file
  std::string_view name;  ///< for people, in English
  std::string_view about; ///< one line: what is heard
  std::span<const TreatmentParameter> parameters;
  Treatment::What usual; ///< with the settings it usually has
};
/// Those that are known, in the order in which they are offered.
[[nodiscard]] std::span<const TreatmentType> treatmentTypes();
[[nodiscard]] const TreatmentType& typeOf(const Treatment& treatment);
/// Null for none.
[[nodiscard]] const TreatmentType* treatmentType(std::string_view id);

/// Brings every setting into its range; an order that is no order of pieces is dropped.
void clamp(Treatment& treatment);
/// "stutter 1/4 × 4": for lists and lineage.
[[nodiscard]] std::string describe(const Treatment& treatment);

inline constexpr std::size_t kMostTreatments = 16; ///< on one sound
inline constexpr std::size_t kMostPieces = 256;    ///< of a chop

} // namespace tuvvo
