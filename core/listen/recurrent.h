// Layers of learnt networks: products with weights, and gated recurrent units. Any thread but the
// audio thread.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>

namespace tuvvo {

/// sums += weights · in, weights by input.
void addProduct(const float* weights, std::size_t inputs, std::size_t outputs, const float* in,
                float* sums);
template <std::size_t In, std::size_t Out>
void addProduct(const float (&weights)[In][Out], const float* in, float* sums) {
  addProduct(&weights[0][0], In, Out, in, sums);
}

/// The new state of gated recurrent units from what their gates are given, by their input and by
/// their own state; gates stand in the order reset, update, new.
/// @param in, own  3 · size values; `in` is used up @param state  size values, which are changed
void turnGates(float* in, const float* own, std::size_t size, float* state);

/// What a layer's sums begin with.
template <std::size_t Size> std::array<float, Size> begun(const float (&bias)[Size]) {
  std::array<float, Size> out;
  std::copy(bias, bias + Size, out.begin());
  return out;
}

inline float logistic(float v) { return 1 / (1 + std::exp(-v)); }

/// One direction of a layer of gated recurrent units (Cho et al. 2014 as PyTorch writes them).
template <std::size_t Input, std::size_t State> class GatedUnits {
public:
  using Weights = float[State][3 * State];
  using InputWeights = float[Input][3 * State];
  using Bias = float[3 * State];
  GatedUnits(const InputWeights& in, const Bias& inBias, const Weights& own, const Bias& ownBias)
      : m_in(in), m_own(own), m_inBias(inBias), m_ownBias(ownBias) {}

  /// @param input  Input values
  const std::array<float, State>& step(const float* input) {
    auto in = begun(m_inBias), own = begun(m_ownBias);
    addProduct(m_in, input, in.data());
    addProduct(m_own, m_state.data(), own.data());
    turnGates(in.data(), own.data(), State, m_state.data());
    return m_state;
  }

private:
  const InputWeights& m_in;
  const Weights& m_own;
  const Bias &m_inBias, &m_ownBias;
  std::array<float, State> m_state{};
};

} // namespace tuvvo
