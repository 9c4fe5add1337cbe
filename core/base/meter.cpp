#include "base/meter.h"

#include <charconv>

namespace tuvvo {

std::string nameOf(Meter meter) {
  return std::to_string(meter.beats) + "/" + std::to_string(meter.unit);
}

std::optional<Meter> meterFromName(const std::string& name) {
  const auto slash = name.find('/');
  if (slash == std::string::npos) return std::nullopt;
  Meter meter;
  const char *begin = name.data(), *middle = begin + slash, *end = begin + name.size();
  const auto beats = std::from_chars(begin, middle, meter.beats);
  const auto unit = std::from_chars(middle + 1, end, meter.unit);
  const bool power = meter.unit > 0 && (meter.unit & (meter.unit - 1)) == 0;
  if (beats.ec != std::errc{} || beats.ptr != middle || unit.ec != std::errc{} || unit.ptr != end ||
      meter.beats < 1 || meter.beats > kMostMeterBeats || !power || meter.unit > kShortestUnit)
    return std::nullopt;
  return meter;
}

} // namespace tuvvo
