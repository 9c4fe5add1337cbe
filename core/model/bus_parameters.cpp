#include "model/bus_parameters.h"

#include <array>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kQuietest = -60, kLoudest = 12; ///< dB

template <std::size_t which> double sendOf(const BusSettings& bus) {
  return bus.sends[which].value;
}
template <std::size_t which> void setSend(BusSettings& bus, double value) {
  bus.sends[which] = Decibels(value);
}
template <std::size_t which>
constexpr BusParameter send(std::string_view id, std::string_view name) {
  return {{.id = id,
           .name = name,
           .unit = Unit::Decibels,
           .least = kNoSend.value,
           .most = kLoudest,
           .standard = kNoSend.value,
           .step = 0.5,
           .decimals = 1,
           .about = "How much of it goes there, after level and pan; at the bottom nothing does"},
          sendOf<which>,
          setSend<which>};
}

const std::array kBus{
    BusParameter{{.id = "level",
                  .name = "Level",
                  .unit = Unit::Decibels,
                  .least = kQuietest,
                  .most = kLoudest,
                  .standard = 0,
                  .step = 0.5,
                  .decimals = 1,
                  .about = "How loud it comes out"},
                 [](const BusSettings& bus) { return bus.level.value; },
                 [](BusSettings& bus, double value) { bus.level = Decibels(value); }},
    BusParameter{{.id = "pan",
                  .name = "Pan",
                  .unit = Unit::Percent,
                  .least = -100,
                  .most = 100,
                  .standard = 0,
                  .step = 1,
                  .decimals = 0,
                  .about = "Left (−) or right (+)"},
                 [](const BusSettings& bus) { return bus.pan * 100; },
                 [](BusSettings& bus, double value) { bus.pan = value / 100; }},
    BusParameter{{.id = "width",
                  .name = "Width",
                  .unit = Unit::Percent,
                  .least = 0,
                  .most = 200,
                  .standard = 100,
                  .step = 1,
                  .decimals = 0,
                  .about = "0 is mono, 100 as it is, 200 twice as wide"},
                 [](const BusSettings& bus) { return bus.width * 100; },
                 [](BusSettings& bus, double value) { bus.width = value / 100; }},
    send<0>("send-1", "Send 1"),
    send<1>("send-2", "Send 2"),
    send<2>("send-3", "Send 3"),
    send<3>("send-4", "Send 4"),
};
static_assert(kSends == 4);

const std::array kDuck{
    DuckParameter{{.id = "duck-depth",
                   .name = "Duck by",
                   .unit = Unit::Decibels,
                   .least = 0,
                   .most = 40,
                   .standard = 9,
                   .step = 0.5,
                   .decimals = 1,
                   .about = "How far it steps back"},
                  [](const Duck& duck) { return duck.depth.value; },
                  [](Duck& duck, double value) { duck.depth = Decibels(value); }},
    DuckParameter{{.id = "duck-back",
                   .name = "Back in",
                   .unit = Unit::Milliseconds,
                   .least = 10,
                   .most = 2000,
                   .standard = 140,
                   .step = 5,
                   .decimals = 0,
                   .about = "Until it is there again"},
                  [](const Duck& duck) { return duck.back.value; },
                  [](Duck& duck, double value) { duck.back = Milliseconds(value); }},
};

} // namespace

std::span<const BusParameter> busParameters() { return kBus; }
std::span<const DuckParameter> duckParameters() { return kDuck; }

void clamp(BusSettings& bus) {
  clampFigures(bus, busParameters());
  if (bus.chain.size() > kMostProcessors) bus.chain.resize(kMostProcessors);
  for (auto& processor : bus.chain)
    std::erase_if(processor.figures,
                  [](const auto& figure) { return !std::isfinite(figure.second); });
}

void clamp(Duck& duck) { clampFigures(duck, duckParameters()); }

} // namespace tuvvo
