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
};

/// Brought into its range; the standard for what is no number. A choice becomes a whole figure.
[[nodiscard]] double clamped(const Parameter& parameter, double value);
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
