#include "model/bus.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {
double within(double value, double low, double high, double standard) {
  return std::isnan(value) ? standard : std::clamp(value, low, high);
}
} // namespace

void clamp(BusSettings& bus) {
  bus.level.value = within(bus.level.value, -60, 12, 0);
  bus.pan = within(bus.pan, -1, 1, 0);
  bus.width = within(bus.width, 0, 2, 1);
  for (auto& send : bus.sends) send.value = within(send.value, kNoSend.value, 12, kNoSend.value);
  if (bus.chain.size() > kMostProcessors) bus.chain.resize(kMostProcessors);
  for (auto& processor : bus.chain)
    std::erase_if(processor.figures,
                  [](const auto& figure) { return !std::isfinite(figure.second); });
}

} // namespace tuvvo
