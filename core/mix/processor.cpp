#include "mix/processor.h"

#include <array>

namespace tuvvo {

std::span<const ProcessorType* const> processorTypes() {
  static constexpr std::array<const ProcessorType*, 2> all{&kFilterType, &kLimiterType};
  return all;
}

const ProcessorType* findProcessorType(std::string_view id) {
  for (const ProcessorType* type : processorTypes())
    if (type->id == id) return type;
  return nullptr;
}

} // namespace tuvvo
