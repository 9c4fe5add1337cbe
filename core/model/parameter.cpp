#include "model/parameter.h"

#include "base/convert.h"

#include <algorithm>
#include <cmath>
#include <cstdio>
#include <cstdlib>

namespace tuvvo {

double clamped(const Parameter& parameter, double value) {
  if (std::isnan(value)) return parameter.standard;
  const double inside = std::clamp(value, parameter.least, parameter.most);
  return parameter.words.empty() ? inside : std::round(inside);
}

double placeOf(const Parameter& parameter, double value) {
  const double inside = clamped(parameter, value), range = parameter.most - parameter.least;
  if (range <= 0) return 0;
  if (parameter.taper == Taper::Ratio)
    return std::log(inside / parameter.least) / std::log(parameter.most / parameter.least);
  return (inside - parameter.least) / range;
}

double valueAt(const Parameter& parameter, double place) {
  const double way = std::clamp(place, 0.0, 1.0);
  const double value = parameter.taper == Taper::Ratio
                           ? parameter.least * std::pow(parameter.most / parameter.least, way)
                           : parameter.least + (parameter.most - parameter.least) * way;
  return clamped(parameter, value);
}

std::string_view symbolOf(Unit unit) {
  switch (unit) {
  case Unit::None:
    break;
  case Unit::Decibels:
    return "dB";
  case Unit::Hertz:
    return "Hz";
  case Unit::Milliseconds:
    return "ms";
  case Unit::Seconds:
    return "s";
  case Unit::Semitones:
    return "st";
  case Unit::Cents:
    return "ct";
  case Unit::Octaves:
    return "oct";
  case Unit::Beats:
    return "beats";
  case Unit::Ticks:
    return "ticks";
  case Unit::Bars:
    return "bars";
  case Unit::Percent:
    return "%";
  }
  return "";
}

namespace {

/// Whether zeros behind the point say nothing: "0.25 beats", "1 beats", but "440.0 Hz".
bool trims(Unit unit) {
  return unit == Unit::Beats || unit == Unit::Bars || unit == Unit::Semitones ||
         unit == Unit::Octaves || unit == Unit::Seconds || unit == Unit::None;
}

} // namespace

std::string written(const Parameter& parameter, double value) {
  const double inside = clamped(parameter, value);
  if (!parameter.words.empty())
    return std::string(parameter.words[placeIn(inside, parameter.words.size())]);
  char text[64];
  std::snprintf(text, sizeof text, "%.*f", parameter.decimals, std::abs(inside));
  std::string figure = text;
  if (trims(parameter.unit) && figure.find('.') != std::string::npos) {
    figure.erase(figure.find_last_not_of('0') + 1);
    if (figure.back() == '.') figure.pop_back();
  }
  const bool zero = figure.find_first_not_of("0.") == std::string::npos;
  std::string out = inside < 0 && !zero ? "\u2212" : "";
  out += figure;
  if (const auto symbol = symbolOf(parameter.unit); !symbol.empty()) out.append(" ").append(symbol);
  return out;
}

std::optional<double> parsed(const Parameter& parameter, std::string_view text) {
  for (std::size_t i = 0; i < parameter.words.size(); ++i)
    if (parameter.words[i] == text) return double(i);
  if (!parameter.words.empty()) return std::nullopt;
  std::string plain(text);
  if (const std::string minus = "\u2212"; plain.starts_with(minus))
    plain.replace(0, minus.size(), "-");
  char* end = nullptr;
  const double value = std::strtod(plain.c_str(), &end);
  if (end == plain.c_str() || !std::isfinite(value)) return std::nullopt;
  std::string_view rest(end);
  while (!rest.empty() && rest.front() == ' ') rest.remove_prefix(1);
  if (!rest.empty() && rest != symbolOf(parameter.unit)) return std::nullopt;
  return value;
}

} // namespace tuvvo
