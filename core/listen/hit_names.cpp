#include "listen/hit_names.h"

#include "base/convert.h"
#include "listen/hit_weights.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr std::size_t kHeard = kHitHeard;  // what is kept of a rise heard by itself
constexpr std::size_t kState = kHitState;  // of one direction
constexpr std::size_t kInput = kHeard + 2; // and the way to both neighbours
constexpr std::size_t kSight = kHeard + 2 * kState;
constexpr std::size_t kOutputs = 5;

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

template <std::size_t Size> std::array<float, Size> begun(const float (&bias)[Size]) {
  std::array<float, Size> out;
  std::copy(bias, bias + Size, out.begin());
  return out;
}

float logistic(float v) { return 1 / (1 + std::exp(-v)); }

std::array<float, kHeard> heardAlone(const HitDetector::Features& features) {
  std::array<float, HitDetector::kFeatures> scaled{};
  for (std::size_t i = 0; i < scaled.size(); ++i)
    scaled[i] = (features[i] - kHitMean[i]) * kHitScale[i];
  auto hidden = begun(kHitHiddenBias);
  addProduct(kHitHiddenWeights, scaled.data(), hidden.data());
  for (float& v : hidden) v = std::max(0.0f, v);
  auto heard = begun(kHitHeardBias);
  addProduct(kHitHeardWeights, hidden.data(), heard.data());
  for (float& v : heard) v = std::max(0.0f, v);
  return heard;
}

/// How far away a neighbour is: 0 for 0.2 s, on a log scale, within 20 ms and a second; as far as a
/// second where there is none.
float wayTo(int from, int to) {
  const double seconds = std::abs(to - from) / HitDetector::kFramesASecond;
  return float(std::log(std::clamp(seconds, 0.02, 1.0) / 0.2));
}

/// A layer of gated recurrent units; its gates stand in the order reset, update, new.
class Direction {
public:
  using Weights = float[kState][3 * kState];
  using InputWeights = float[kInput][3 * kState];
  using Bias = float[3 * kState];
  Direction(const InputWeights& in, const Bias& inBias, const Weights& own, const Bias& ownBias)
      : m_in(in), m_own(own), m_inBias(inBias), m_ownBias(ownBias) {}

  const std::array<float, kState>& step(const std::array<float, kInput>& input) {
    auto in = begun(m_inBias), own = begun(m_ownBias);
    addProduct(m_in, input.data(), in.data());
    addProduct(m_own, m_state.data(), own.data());
    for (std::size_t s = 0; s < kState; ++s) {
      const float reset = logistic(in[s] + own[s]),
                  update = logistic(in[kState + s] + own[kState + s]),
                  fresh = std::tanh(in[2 * kState + s] + reset * own[2 * kState + s]);
      m_state[s] = (1 - update) * fresh + update * m_state[s];
    }
    return m_state;
  }

private:
  const InputWeights& m_in;
  const Weights& m_own;
  const Bias &m_inBias, &m_ownBias;
  std::array<float, kState> m_state{};
};

} // namespace

std::vector<HitNamed>
nameHits(std::span<const int> frames,
         const std::function<HitDetector::Features(std::size_t)>& featuresOf) {
  const std::size_t count = frames.size();
  std::vector<std::array<float, kInput>> inputs(count);
  std::vector<std::array<float, kState>> before(count);
  const int second = toWhole<int>(HitDetector::kFramesASecond) + 1;
  Direction onwards(kHitOnwardsIn, kHitOnwardsInBias, kHitOnwardsOwn, kHitOnwardsOwnBias);
  for (std::size_t i = 0; i < count; ++i) {
    const auto heard = heardAlone(featuresOf(i));
    std::copy(heard.begin(), heard.end(), inputs[i].begin());
    inputs[i][kHeard] = wayTo(frames[i], i > 0 ? frames[i - 1] : frames[i] - second);
    inputs[i][kHeard + 1] = wayTo(frames[i], i + 1 < count ? frames[i + 1] : frames[i] + second);
    before[i] = onwards.step(inputs[i]);
  }
  Direction back(kHitBackIn, kHitBackInBias, kHitBackOwn, kHitBackOwnBias);
  std::vector<HitNamed> out(count);
  for (std::size_t i = count; i-- > 0;) {
    const auto& after = back.step(inputs[i]);
    std::array<float, kSight> sight{};
    std::copy_n(inputs[i].begin(), kHeard, sight.begin());
    std::copy(before[i].begin(), before[i].end(), sight.begin() + kHeard);
    std::copy(after.begin(), after.end(), sight.begin() + kHeard + kState);
    auto sums = begun(kHitOutBias);
    static_assert(sums.size() == kOutputs);
    addProduct(kHitOutWeights, sight.data(), sums.data());
    out[i] = {logistic(sums[0]), logistic(sums[1]), logistic(sums[2]), logistic(sums[3]),
              logistic(sums[4])};
  }
  return out;
}

} // namespace tuvvo
