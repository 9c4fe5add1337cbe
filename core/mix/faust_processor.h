// A processor written in Faust. Inner part of mix/.
#pragma once

#include "base/convert.h"
#include "mix/faust/ui.h"
#include "mix/moved_value.h"
#include "mix/processor.h"

#include <array>

namespace tuvvo {

/// @tparam Dsp    what Faust generated; its parameters are found by their ids
/// @tparam count  how many a type has
/// Parameters with a taper of ratios are moved by their logarithm; choices jump.
template <class Dsp, std::size_t count> class FaustProcessor : public Processor {
public:
  FaustProcessor(const ProcessorType& type, Hertz rate, int tail) : m_type(type), m_tail(tail) {
    m_dsp.init(toNearest<int>(rate.value));
    UI places;
    m_dsp.buildUserInterface(&places);
    for (std::size_t i = 0; i < count; ++i) {
      for (const auto& [id, place] : places.places)
        if (id == type.parameters[i].id) m_places[i] = place;
      set(i, type.parameters[i].standard);
    }
    reset();
  }

  void set(std::size_t parameter, double value) override {
    if (parameter >= count) return;
    m_values[parameter].send(bent(parameter, clamped(m_type.parameters[parameter], value)));
    if (!m_type.parameters[parameter].words.empty()) m_values[parameter].jump();
  }

  void reset() override {
    m_dsp.instanceClear();
    for (auto& value : m_values) value.jump();
  }

  void process(float* left, float* right) override {
    for (std::size_t i = 0; i < count; ++i) {
      const double next = m_values[i].next();
      if (m_places[i]) *m_places[i] = float(byRatio(i) ? std::exp(next) : next);
    }
    float* channels[2]{left, right};
    m_dsp.compute(kQuantum, channels, channels);
  }

  [[nodiscard]] int tail() const override { return m_tail; }

private:
  [[nodiscard]] bool byRatio(std::size_t i) const {
    return m_type.parameters[i].taper == Taper::Ratio;
  }
  [[nodiscard]] double bent(std::size_t i, double value) const {
    return byRatio(i) ? std::log(value) : value;
  }

  const ProcessorType& m_type;
  int m_tail;
  Dsp m_dsp;
  std::array<MovedValue, count> m_values;
  std::array<float*, count> m_places{};
};

} // namespace tuvvo
