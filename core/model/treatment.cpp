#include "model/treatment.h"

#include "base/convert.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <cstdio>

namespace tuvvo {

namespace {

// ---- reading and setting a member, whatever its type --------------------------------------------

template <class T> double plain(const T& value) {
  if constexpr (requires { value.value; })
    return value.value;
  else
    return double(value);
}
template <class T> T made(double value) {
  if constexpr (requires(T unit) { unit.value; })
    return T(value);
  else if constexpr (std::is_same_v<T, double>)
    return value;
  else
    return T(toNearest<int>(value));
}
template <class Kind, auto member> double get(const Treatment& treatment) {
  return plain(std::get<Kind>(treatment.what).*member);
}
template <class Kind, auto member> void set(Treatment& treatment, double value) {
  auto& place = std::get<Kind>(treatment.what).*member;
  place = made<std::remove_cvref_t<decltype(place)>>(value);
}

// ---- descriptions -------------------------------------------------------------------------------

using Words = std::span<const std::string_view>;

template <class Kind, auto member> TreatmentParameter one(const Parameter& parameter) {
  Treatment usual{Kind{}};
  Parameter described = parameter;
  described.standard = get<Kind, member>(usual);
  return {described, get<Kind, member>, set<Kind, member>};
}
Parameter beats(std::string_view id, std::string_view name, double most = 16) {
  return {id, name, Unit::Beats, 0.0625, most, 0, 0.25, 4, Taper::Even, {}};
}
Parameter number(std::string_view id, std::string_view name, Unit unit, double least, double most,
                 double step, int decimals, Taper taper = Taper::Even) {
  return {id, name, unit, least, most, 0, step, decimals, taper, {}};
}
Parameter choice(std::string_view id, std::string_view name, Words words) {
  return {id, name, Unit::None, 0, double(words.size() - 1), 0, 1, 0, Taper::Even, words};
}
Parameter curve() { return number("curve", "curve", Unit::None, 0.2, 5, 0.1, 1); }

constexpr std::array<std::string_view, 2> kFirst{"forward", "reversed"};
constexpr std::array<std::string_view, 2> kTo{"half time", "double time"};
constexpr std::array<std::string_view, 3> kMethods{"repitch", "stretch", "re-space"};
constexpr std::array<std::string_view, 2> kFrom{"its own decay", "its reverberation"};
constexpr std::array<std::string_view, 2> kThen{"the sound", "nothing"};
constexpr std::array<std::string_view, 2> kWhere{"in", "out"};
constexpr std::array<std::string_view, 2> kHitsOrTones{"hits", "tones"};
constexpr std::array<std::string_view, 2> kCentreOrSides{"centre", "sides"};
constexpr std::array<std::string_view, 3> kBands{"low", "middle", "high"};

std::span<const TreatmentParameter> alternateParameters() {
  using treat::Alternate;
  static const std::array all{
      one<Alternate, &Alternate::everyBeats>(beats("everyBeats", "every", 8)),
      one<Alternate, &Alternate::first>(choice("first", "first", kFirst))};
  return all;
}
std::span<const TreatmentParameter> speedParameters() {
  using treat::Speed;
  static const std::array all{
      one<Speed, &Speed::to>(choice("factor", "to", kTo)),
      one<Speed, &Speed::bars>(number("bars", "over", Unit::Bars, 0, 16, 1, 0)),
      one<Speed, &Speed::method>(choice("method", "by", kMethods))};
  return all;
}
std::span<const TreatmentParameter> octaveParameters() {
  using treat::Octave;
  static const std::array all{
      one<Octave, &Octave::octaves>(number("octaves", "octaves", Unit::None, -2, 2, 1, 0)),
      one<Octave, &Octave::level>(number("levelDb", "level", Unit::Decibels, -30, 6, 0.5, 1))};
  return all;
}
template <class Kind> std::span<const TreatmentParameter> curvedParameters() {
  static const std::array all{one<Kind, &Kind::beats>(beats("beats", "over")),
                              one<Kind, &Kind::curve>(curve())};
  return all;
}
std::span<const TreatmentParameter> stutterParameters() {
  using treat::Stutter;
  static const std::array all{
      one<Stutter, &Stutter::divisionBeats>(beats("divisionBeats", "each", 4)),
      one<Stutter, &Stutter::count>(number("count", "times", Unit::None, 2, 64, 1, 0)),
      one<Stutter, &Stutter::ramp>(number("rampDb", "ramp", Unit::Decibels, -24, 24, 1, 0)),
      one<Stutter, &Stutter::pitch>(number("pitchSt", "pitch", Unit::Semitones, -24, 24, 1, 0))};
  return all;
}
std::span<const TreatmentParameter> swellParameters() {
  using treat::Swell;
  static const std::array all{
      one<Swell, &Swell::beats>(beats("beats", "over")),
      one<Swell, &Swell::from>(choice("from", "of", kFrom)),
      one<Swell, &Swell::tail>(number("tailS", "tail", Unit::Seconds, 0.2, 8, 0.1, 1)),
      one<Swell, &Swell::then>(choice("then", "then", kThen))};
  return all;
}
std::span<const TreatmentParameter> fadeParameters() {
  using treat::Fade;
  static const std::array all{one<Fade, &Fade::where>(choice("where", "fade", kWhere)),
                              one<Fade, &Fade::beats>(beats("beats", "over", 64)),
                              one<Fade, &Fade::curve>(curve())};
  return all;
}
std::span<const TreatmentParameter> chopParameters() {
  using treat::Chop;
  static const std::array all{
      one<Chop, &Chop::divisionBeats>(beats("divisionBeats", "each", 8)),
      one<Chop, &Chop::seed>(number("seed", "seed", Unit::None, 1, 9999, 1, 0))};
  return all;
}
std::span<const TreatmentParameter> isolateParameters() {
  using treat::Isolate;
  static const std::array all{
      one<Isolate, &Isolate::keep>(choice("keep", "keep", kHitsOrTones)),
      one<Isolate, &Isolate::rest>(number("restDb", "the rest", Unit::Decibels, -60, 0, 1, 0))};
  return all;
}
std::span<const TreatmentParameter> sidesParameters() {
  using treat::Sides;
  static const std::array all{one<Sides, &Sides::keep>(choice("keep", "keep", kCentreOrSides))};
  return all;
}
std::span<const TreatmentParameter> bandParameters() {
  using treat::Band;
  static const std::array all{
      one<Band, &Band::keep>(choice("keep", "keep", kBands)),
      one<Band, &Band::low>(number("lowHz", "low to", Unit::Hertz, 40, 2000, 10, 0, Taper::Ratio)),
      one<Band, &Band::high>(
          number("highHz", "high from", Unit::Hertz, 400, 16000, 100, 0, Taper::Ratio))};
  return all;
}

constexpr std::size_t kKinds = std::variant_size_v<Treatment::What>;

/// In the order of Treatment::What; the last one is that of a newer version.
const std::array<TreatmentType, kKinds>& types() {
  static const std::array<TreatmentType, kKinds> all{{
      {"reverse", "Reverse", "last to first", {}, treat::Reverse{}},
      {"alternate", "Alternate", "forward and reversed in turn", alternateParameters(),
       treat::Alternate{}},
      {"speed", "Half or double time", "the beginning at half or twice its speed, over bars",
       speedParameters(), treat::Speed{}},
      {"octave", "Octave copy", "a copy an octave or two away, under or over it",
       octaveParameters(), treat::Octave{}},
      {"slow-down", "Slow down", "its end runs down to a stop", curvedParameters<treat::SlowDown>(),
       treat::SlowDown{}},
      {"start-up", "Start up", "its beginning comes up from a stop",
       curvedParameters<treat::StartUp>(), treat::StartUp{}},
      {"stutter", "Stutter", "its beginning again and again, then it goes on", stutterParameters(),
       treat::Stutter{}},
      {"swell", "Reversed swell", "its tail turned round, rising into its first frame",
       swellParameters(), treat::Swell{}},
      {"fade", "Fade", "comes in or goes out", fadeParameters(), treat::Fade{}},
      {"chop", "Chop and reorder", "pieces in another order, by a seed or by hand",
       chopParameters(), treat::Chop{}},
      {"isolate", "Hits or tones", "hits apart from tones", isolateParameters(), treat::Isolate{}},
      {"sides", "Centre or sides", "what both channels share, or what they do not",
       sidesParameters(), treat::Sides{}},
      {"band", "Band", "low, middle or high; together they are the whole again", bandParameters(),
       treat::Band{}},
      {"",
       "Unknown",
       "of a newer version: it is kept as it is, and is not heard here",
       {},
       treat::Unknown{}},
  }};
  return all;
}

/// "1/4 beat", "4", "-6 dB"
std::string briefly(const Parameter& parameter, double value) {
  if (!parameter.words.empty()) return written(parameter, value);
  char text[48];
  const auto unit = symbolOf(parameter.unit);
  if (parameter.unit == Unit::Beats && value < 1 &&
      std::abs(1 / value - std::round(1 / value)) < 1e-9)
    std::snprintf(text, sizeof text, "1/%d beat", toWhole<int>(std::round(1 / value)));
  else
    std::snprintf(text, sizeof text, "%g%s%.*s", value, unit.empty() ? "" : " ", int(unit.size()),
                  unit.data());
  return text;
}

} // namespace

std::span<const TreatmentType> treatmentTypes() { return std::span(types()).first(kKinds - 1); }

const TreatmentType& typeOf(const Treatment& treatment) { return types()[treatment.what.index()]; }

const TreatmentType* treatmentType(std::string_view id) {
  for (const auto& type : treatmentTypes())
    if (id == type.id) return &type;
  return nullptr;
}

void clamp(Treatment& t) {
  for (const auto& each : typeOf(t).parameters) each.set(t, clamped(each.parameter, each.get(t)));
  if (auto* band = t.as<treat::Band>())
    band->high.value = std::max(band->high.value, band->low.value * 1.5);
  if (auto* chop = t.as<treat::Chop>()) {
    if (chop->order.size() > kMostPieces) chop->order.clear();
    std::erase_if(chop->order, [](int piece) { return piece < 0 || piece >= int(kMostPieces); });
  }
}

std::string describe(const Treatment& t) {
  const auto& type = typeOf(t);
  std::string out(type.name);
  const auto* chop = t.as<treat::Chop>();
  const auto* speed = t.as<treat::Speed>();
  for (std::size_t i = 0; i < type.parameters.size(); ++i) {
    const auto& each = type.parameters[i];
    if (speed && speed->bars == 0 && each.parameter.id == "bars") continue;
    if (chop && !chop->order.empty() && each.parameter.id == "seed") {
      out += ", by hand";
      continue;
    }
    out += i == 0 ? ": " : ", ";
    if (each.parameter.words.empty() && i > 0) out += std::string(each.parameter.name) + " ";
    out += briefly(each.parameter, each.get(t));
  }
  return out;
}

} // namespace tuvvo
