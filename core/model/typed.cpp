#include "model/typed.h"

#include "base/text.h"
#include "listen/spelling.h"

#include <array>
#include <charconv>
#include <cmath>

namespace tuvvo {

namespace {

/// What one of a written unit is in another.
struct Reckoned {
  Unit in;
  std::string_view written;
  double factor;
};
constexpr std::array kReckoned{Reckoned{Unit::Decibels, "db", 1},
                               Reckoned{Unit::Hertz, "hz", 1},
                               Reckoned{Unit::Hertz, "k", 1000},
                               Reckoned{Unit::Hertz, "khz", 1000},
                               Reckoned{Unit::Milliseconds, "ms", 1},
                               Reckoned{Unit::Milliseconds, "s", 1000},
                               Reckoned{Unit::Milliseconds, "sec", 1000},
                               Reckoned{Unit::Seconds, "s", 1},
                               Reckoned{Unit::Seconds, "sec", 1},
                               Reckoned{Unit::Seconds, "ms", 0.001},
                               Reckoned{Unit::Semitones, "st", 1},
                               Reckoned{Unit::Semitones, "semitones", 1},
                               Reckoned{Unit::Semitones, "semitone", 1},
                               Reckoned{Unit::Semitones, "ct", 0.01},
                               Reckoned{Unit::Semitones, "cents", 0.01},
                               Reckoned{Unit::Semitones, "oct", 12},
                               Reckoned{Unit::Cents, "ct", 1},
                               Reckoned{Unit::Cents, "cents", 1},
                               Reckoned{Unit::Cents, "cent", 1},
                               Reckoned{Unit::Cents, "st", 100},
                               Reckoned{Unit::Octaves, "oct", 1},
                               Reckoned{Unit::Octaves, "octaves", 1},
                               Reckoned{Unit::Octaves, "octave", 1},
                               Reckoned{Unit::Octaves, "st", 1.0 / 12},
                               Reckoned{Unit::Beats, "beats", 1},
                               Reckoned{Unit::Beats, "beat", 1},
                               Reckoned{Unit::Beats, "b", 1},
                               Reckoned{Unit::Ticks, "ticks", 1},
                               Reckoned{Unit::Ticks, "tick", 1},
                               Reckoned{Unit::Ticks, "beats", 960},
                               Reckoned{Unit::Bars, "bars", 1},
                               Reckoned{Unit::Bars, "bar", 1},
                               Reckoned{Unit::Percent, "%", 1},
                               Reckoned{Unit::None, "bpm", 1},
                               Reckoned{Unit::None, "x", 1}};

/// Without spaces at its ends, in small letters, with one minus sign and a decimal point.
std::string plainOf(std::string_view text) {
  std::string out = lowerCase(std::string(text));
  for (const std::string_view minus : {"\u2212", "\u2013"})
    for (auto at = out.find(minus); at != std::string::npos; at = out.find(minus))
      out.replace(at, minus.size(), "-");
  for (char& c : out)
    if (c == ',') c = '.';
  const auto first = out.find_first_not_of(" \t"), last = out.find_last_not_of(" \t");
  return first == std::string::npos ? std::string() : out.substr(first, last - first + 1);
}

/// A number at the front of a text, which then begins after it.
std::optional<double> numberOff(std::string_view& text) {
  if (text.starts_with('+')) text.remove_prefix(1);
  double value = 0;
  const auto [end, wrong] =
      std::from_chars(text.data(), text.data() + text.size(), value, std::chars_format::fixed);
  if (wrong != std::errc() || !std::isfinite(value)) return std::nullopt;
  text.remove_prefix(std::size_t(end - text.data()));
  while (text.starts_with(' ')) text.remove_prefix(1);
  return value;
}

/// "1/8d" in quarters.
std::optional<double> noteValue(std::string_view text) {
  const auto above = numberOff(text);
  if (!above || !text.starts_with('/')) return std::nullopt;
  text.remove_prefix(1);
  // The point of a dotted value is no decimal point.
  const bool dotted = text.ends_with('.') || text.ends_with('d'), triplet = text.ends_with('t');
  if (dotted || triplet) text.remove_suffix(1);
  const auto below = numberOff(text);
  if (!below || *below <= 0 || !text.empty()) return std::nullopt;
  return 4 * *above / *below * (dotted ? 1.5 : triplet ? 2.0 / 3 : 1);
}

} // namespace

std::optional<double> typed(std::string_view text, Unit unit, std::optional<Bpm> tempo) {
  if (unit == Unit::Hertz)
    if (const auto note = noteFromName(text)) return frequencyOf(*note).value;
  const std::string plain = plainOf(text);
  if (const auto quarters = noteValue(plain)) {
    const double ms = tempo && tempo->value > 0 ? *quarters * 60'000 / tempo->value : 0;
    switch (unit) {
    case Unit::Beats:
      return *quarters;
    case Unit::Ticks:
      return *quarters * 960;
    case Unit::Milliseconds:
      return ms > 0 ? std::optional(ms) : std::nullopt;
    case Unit::Seconds:
      return ms > 0 ? std::optional(ms / 1000) : std::nullopt;
    default:
      return std::nullopt;
    }
  }
  std::string_view rest = plain;
  const auto value = numberOff(rest);
  if (!value || rest.empty()) return value;
  for (const auto& each : kReckoned)
    if (each.in == unit && each.written == rest) return *value * each.factor;
  return std::nullopt;
}

} // namespace tuvvo
