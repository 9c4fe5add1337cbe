// A layer of learnt attention: each of many things is heard beside those like it. Any thread but
// the audio thread.
#pragma once

#include "listen/recurrent.h"

#include <algorithm>
#include <vector>

namespace tuvvo {

/// Scaled dot products of several heads (Vaswani et al. 2017, "Attention is all you need") over
/// things in a row. What a thing asks, answers and tells is one product with weights.
template <std::size_t Input, std::size_t Heads, std::size_t Size> class Attention {
public:
  static constexpr std::size_t kOutput = Heads * Size;
  using Weights = float[Input][3 * kOutput];
  using Bias = float[3 * kOutput];
  /// @param reach  so many before and as many after it does each thing look at
  Attention(const Weights& weights, const Bias& bias, std::size_t reach)
      : m_weights(weights), m_bias(bias), m_reach(reach) {}

  /// @param input  Input values
  void add(const float* input) {
    m_things.push_back(begun(m_bias));
    addProduct(m_weights, input, m_things.back().data());
  }

  /// What those like the given one tell, the more the liker they are.
  std::array<float, kOutput> seenBy(std::size_t thing) const {
    const std::size_t first = thing - std::min(thing, m_reach);
    const std::size_t end = std::min(m_things.size(), thing + m_reach + 1);
    std::array<float, kOutput> out{};
    std::vector<float> shares(end - first);
    for (std::size_t head = 0; head < Heads; ++head) {
      const std::size_t asked = head * Size, answer = kOutput + asked, told = 2 * kOutput + asked;
      for (std::size_t i = first; i < end; ++i) {
        float product = 0;
        for (std::size_t s = 0; s < Size; ++s)
          product += m_things[thing][asked + s] * m_things[i][answer + s];
        shares[i - first] = product / std::sqrt(float(Size));
      }
      const float most = *std::max_element(shares.begin(), shares.end());
      float sum = 0;
      for (float& share : shares) sum += share = std::exp(share - most);
      for (std::size_t i = first; i < end; ++i)
        for (std::size_t s = 0; s < Size; ++s)
          out[asked + s] += shares[i - first] / sum * m_things[i][told + s];
    }
    return out;
  }

private:
  const Weights& m_weights;
  const Bias& m_bias;
  std::size_t m_reach;
  std::vector<std::array<float, 3 * kOutput>> m_things;
};

} // namespace tuvvo
