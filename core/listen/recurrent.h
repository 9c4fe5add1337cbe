// Layers of learnt networks: products with weights, and gated recurrent units. Any thread but the
// audio thread.
#pragma once

#include <algorithm>
#include <array>
#include <cmath>
#include <cstddef>

namespace tuvvo {

/// sums += weights · in, weights by input: the inner loop runs along the outputs, four inputs at
/// once so that every sum is fetched a quarter as often.
template <std::size_t In, std::size_t Out>
void addProduct(const float (&weights)[In][Out], const float* in, float* sums) {
  constexpr std::size_t whole = In / 4 * 4;
  for (std::size_t i = 0; i < whole; i += 4)
    for (std::size_t o = 0; o < Out; ++o)
      sums[o] += (weights[i][o] * in[i] + weights[i + 1][o] * in[i + 1]) +
                 (weights[i + 2][o] * in[i + 2] + weights[i + 3][o] * in[i + 3]);
  for (std::size_t i = whole; i < In; ++i)
    for (std::size_t o = 0; o < Out; ++o) sums[o] += weights[i][o] * in[i];
}

/// What a layer's sums begin with.
template <std::size_t Size> std::array<float, Size> begun(const float (&bias)[Size]) {
  std::array<float, Size> out;
  std::copy(bias, bias + Size, out.begin());
  return out;
}

inline float logistic(float v) { return 1 / (1 + std::exp(-v)); }

/// One direction of a layer of gated recurrent units (Cho et al. 2014 as PyTorch writes them); its
/// gates stand in the order reset, update, new.
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
    for (std::size_t s = 0; s < State; ++s) {
      const float reset = logistic(in[s] + own[s]),
                  update = logistic(in[State + s] + own[State + s]),
                  fresh = std::tanh(in[2 * State + s] + reset * own[2 * State + s]);
      m_state[s] = (1 - update) * fresh + update * m_state[s];
    }
    return m_state;
  }

private:
  const InputWeights& m_in;
  const Weights& m_own;
  const Bias &m_inBias, &m_ownBias;
  std::array<float, State> m_state{};
};

} // namespace tuvvo
