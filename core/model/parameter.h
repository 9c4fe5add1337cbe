// What can be turned, described once: slides, controllers, files, the command line and the manual
// all go by it.
#pragma once

#include <optional>
#include <span>
#include <string>
#include <string_view>

namespace tuvvo {

enum class Unit {
  None,
  Decibels,
  Hertz,
  Milliseconds,
  Seconds,
  Semitones,
  Cents,
  Octaves,
  Beats,
  Ticks, ///< 960 to a beat, as people know them
  Bars,
  Percent
};

/// How a slide's way is laid over a range: evenly, or by ratios (as pitches and times are heard).
enum class Taper { Even, Ratio };

/// A choice counts its words from 0.
struct Parameter {
  std::string_view id;   ///< stable; as in files
  std::string_view name; ///< for people, in English
  Unit unit = Unit::None;
  double least = 0, most = 1, standard = 0;
  double step = 0.01; ///< of the arrow keys
  int decimals = 2;
  Taper taper = Taper::Even;                 ///< Ratio needs a least above 0
  std::span<const std::string_view> words{}; ///< of a choice
  double reach = 0; ///< how far from 0 slides go, where that is less than the range; 0: all of it
  std::string_view about{}; ///< a sentence for people, in English
};

/// A figure of something, in its parameter's unit.
template <class Thing> struct FigureOf {
  Parameter parameter;
  double (*get)(const Thing& thing);
  void (*set)(Thing& thing, double value); ///< takes it as it is: see clamped()
};

/// Brought into its range; the standard for what is no number. A choice becomes a whole figure.
[[nodiscard]] double clamped(const Parameter& parameter, double value);
/// Every figure of a thing brought into its range.
template <class Thing> void clampFigures(Thing& thing, std::span<const FigureOf<Thing>> figures) {
  for (const auto& figure : figures) {
    const double value = figure.get(thing), inside = clamped(figure.parameter, value);
    if (!(value == inside)) figure.set(thing, inside);
  }
}
/// Null for one that is not known.
template <class Thing>
[[nodiscard]] const FigureOf<Thing>* findFigure(std::span<const FigureOf<Thing>> figures,
                                                std::string_view id) {
  for (const auto& figure : figures)
    if (figure.parameter.id == id) return &figure;
  return nullptr;
}
/// Where a value lies on a slide's way, 0 to 1, and back.
[[nodiscard]] double placeOf(const Parameter& parameter, double value);
[[nodiscard]] double valueAt(const Parameter& parameter, double place);
/// "440.0 Hz", "−6.0 dB", "high-pass"
[[nodiscard]] std::string written(const Parameter& parameter, double value);
/// What was written, with or without its unit; nothing for what is no such figure.
[[nodiscard]] std::optional<double> parsed(const Parameter& parameter, std::string_view text);
/// "dB", "Hz"; empty for a plain number
[[nodiscard]] std::string_view symbolOf(Unit unit);

} // namespace tuvvo
