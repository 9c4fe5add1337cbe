// The limiter as a processor of a chain.
#include "mix/limiter.h"
#include "mix/moved_value.h"
#include "mix/processor.h"

#include <array>

namespace tuvvo {

namespace {

constexpr std::array<Parameter, 2> kLimiterParameters{
    Parameter{"ceiling", "Ceiling", Unit::Decibels, -24, 0, -1, 0.1, 1, Taper::Even, {}},
    Parameter{"release", "Release", Unit::Milliseconds, 10, 2000, 300, 1, 0, Taper::Ratio, {}}};

class LimiterProcessor : public Processor {
public:
  explicit LimiterProcessor(Hertz rate) : m_rate(rate) {
    for (std::size_t i = 0; i < kLimiterParameters.size(); ++i)
      set(i, kLimiterParameters[i].standard);
    reset();
  }
  void set(std::size_t parameter, double value) override {
    if (parameter < kLimiterParameters.size())
      m_values[parameter].send(clamped(kLimiterParameters[parameter], value));
  }
  void reset() override {
    m_limiter.reset();
    for (auto& value : m_values) value.jump();
  }
  void process(float* left, float* right) override {
    const auto from = float(gainOf(Decibels(m_values[0].now()))),
               to = float(gainOf(Decibels(m_values[0].next())));
    m_limiter.setRelease(Milliseconds(m_values[1].next()), m_rate);
    for (int i = 0; i < kQuantum; ++i) {
      // A ceiling that came down in steps would cut steps into what it holds.
      m_limiter.setCeiling(from + (to - from) * float(i + 1) / kQuantum);
      m_limiter.process(left[i], right[i]);
    }
  }
  [[nodiscard]] int latency() const override { return Limiter::kLatency; }

private:
  Hertz m_rate;
  Limiter m_limiter;
  std::array<MovedValue, 2> m_values;
};

std::unique_ptr<Processor> makeLimiter(Hertz rate) {
  return std::make_unique<LimiterProcessor>(rate);
}

} // namespace

const ProcessorType kLimiterType{"limiter", "Limiter",
                                 "Keeps every peak under a ceiling, 1.3 ms late",
                                 kLimiterParameters, makeLimiter};

} // namespace tuvvo
