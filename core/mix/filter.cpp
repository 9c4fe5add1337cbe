// The filter: faust/filter.dsp.
#include "mix/faust_processor.h"

#pragma GCC diagnostic push
#pragma GCC diagnostic ignored "-Wunused-parameter" // what is generated
#include "mix/faust/filter.h"
#pragma GCC diagnostic pop

namespace tuvvo {

namespace {

constexpr std::array<std::string_view, 4> kModes{"low-pass", "high-pass", "band-pass", "notch"};
constexpr std::array<std::string_view, 2> kSlopes{"12 dB", "24 dB"};
constexpr std::array<Parameter, 4> kFilterParameters{
    Parameter{"mode", "Mode", Unit::None, 0, 3, 0, 1, 0, Taper::Even, kModes},
    Parameter{"slope", "Slope", Unit::None, 0, 1, 0, 1, 0, Taper::Even, kSlopes},
    Parameter{"cutoff", "Cut-off", Unit::Hertz, 20, 20'000, 1000, 1, 0, Taper::Ratio, {}},
    Parameter{"resonance", "Resonance", Unit::Decibels, 0, 24, 0, 0.5, 1, Taper::Even, {}}};

constexpr int kTail = 48'000; // a high resonance rings

std::unique_ptr<Processor> makeFilter(Hertz rate) {
  return std::make_unique<FaustProcessor<faust::Filter, kFilterParameters.size()>>(kFilterType,
                                                                                   rate, kTail);
}

} // namespace

const ProcessorType kFilterType{"filter", "Filter",
                                "Takes away what lies above, below, beside or at a frequency",
                                kFilterParameters, makeFilter};

} // namespace tuvvo
