// Processors: what may stand in the chain of a bus.
#pragma once

#include "base/units.h"
#include "model/parameter.h"

#include <memory>
#include <span>
#include <string_view>

namespace tuvvo {

/// Frames that buses are worked through at once. Parameters are heeded at its borders (1.3 ms at 48
/// kHz), so that nothing depends on a device's block.
inline constexpr int kQuantum = 64;

/// Changes sound that comes by. Made and freed outside the audio thread; all of its functions are
/// safe on it: no allocation, lock or wait. The same input gives the same output again.
class Processor {
public:
  Processor() = default;
  Processor(const Processor&) = delete;
  Processor& operator=(const Processor&) = delete;
  virtual ~Processor() = default;

  /// Where a parameter is to go, in its unit and range: it is moved there without a step.
  virtual void set(std::size_t parameter, double value) = 0;
  /// Forgets what came by; parameters stand where they were last set.
  virtual void reset() = 0;
  /// Changes kQuantum frames of both channels, in place.
  virtual void process(float* left, float* right) = 0;
  /// Frames by which what comes out is late.
  [[nodiscard]] virtual int latency() const { return 0; }
  /// Frames that it may still sound for when only silence comes in.
  [[nodiscard]] virtual int tail() const { return 0; }
};

struct ProcessorType {
  std::string_view id; ///< stable; as in files
  std::string_view name, about;
  std::span<const Parameter> parameters;
  std::unique_ptr<Processor> (*make)(Hertz rate);
};

/// All there are, in the order of a list to choose from.
[[nodiscard]] std::span<const ProcessorType* const> processorTypes();
/// Null for one that is not known.
[[nodiscard]] const ProcessorType* findProcessorType(std::string_view id);

extern const ProcessorType kFilterType, kLimiterType;

} // namespace tuvvo
