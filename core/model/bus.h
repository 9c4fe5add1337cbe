// Buses: where parts, rows and sends come together, and what stands in their way.
#pragma once

#include "base/units.h"
#include "model/extra.h"

#include <array>
#include <map>
#include <string>
#include <vector>

namespace tuvvo {

/// Names things inside one project; never used twice; 0 is nothing.
using Id = std::uint32_t;

/// A part that steps back while another is struck.
struct Duck {
  Id by = 0;         ///< the part that is made room for; 0: none
  Decibels depth{9}; ///< how far it steps back; 0 to 40
  Milliseconds back{
      140}; ///< until it is nearly there again (19 of 20 parts of the way); 10 to 2000
  bool operator==(const Duck&) const = default;
};

/// One processor of a chain.
struct ProcessorSettings {
  Id id = 0;                             ///< what it remembers goes by it
  std::string kind;                      ///< see mix/processor.h; one that is not known is kept,
                                         ///< and lets sound pass
  bool on = true;                        ///< off: kept, and lets sound pass
  std::map<std::string, double> figures; ///< by parameter; those that are not there are standard
  Extra extra{};
  bool operator==(const ProcessorSettings&) const = default;
};

inline constexpr std::size_t kMostProcessors = 8; ///< in one chain
inline constexpr std::size_t kSends = 4;
inline constexpr Decibels kNoSend{-60}; ///< and below: nothing is sent

struct BusSettings {
  Decibels level{0}; ///< −60 to +12
  double pan = 0;    ///< −1 left to 1 right
  double width = 1;  ///< 0 mono, 1 as it is, 2 twice as wide
  std::array<Decibels, kSends> sends{kNoSend, kNoSend, kNoSend, kNoSend}; ///< after level and pan
  std::vector<ProcessorSettings> chain;                                   ///< before them
  Extra extra{};
  bool operator==(const BusSettings&) const = default;
};
/// Brings every figure into its range.
void clamp(BusSettings& bus);

} // namespace tuvvo
