#include "listen/hit_names.h"

#include "base/convert.h"
#include "listen/attention.h"
#include "listen/hit_weights.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

using Likes = Attention<kHitHeard, kHitHeads, kHitSeen>;
constexpr std::size_t kReach = 63;        // as far as it saw while it learnt
constexpr std::size_t kHeard = kHitHeard; // what is kept of a rise heard by itself
constexpr std::size_t kState = kHitState; // of one direction
constexpr std::size_t kKnown = kHeard + Likes::kOutput;
constexpr std::size_t kInput = kKnown + 2; // and the way to both neighbours
constexpr std::size_t kSight = kKnown + 2 * kState;
constexpr std::size_t kOutputs = 5 + kDrums;

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

using Direction = GatedUnits<kInput, kState>;

} // namespace

std::vector<HitNamed>
nameHits(std::span<const int> frames,
         const std::function<HitDetector::Features(std::size_t)>& featuresOf) {
  const std::size_t count = frames.size();
  std::vector<std::array<float, kInput>> inputs(count);
  std::vector<std::array<float, kState>> before(count);
  Likes likes(kHitLikeWeights, kHitLikeBias, kReach);
  for (std::size_t i = 0; i < count; ++i) {
    const auto heard = heardAlone(featuresOf(i));
    std::copy(heard.begin(), heard.end(), inputs[i].begin());
    likes.add(heard.data());
  }
  const int second = toWhole<int>(HitDetector::kFramesASecond) + 1;
  Direction onwards(kHitOnwardsIn, kHitOnwardsInBias, kHitOnwardsOwn, kHitOnwardsOwnBias);
  for (std::size_t i = 0; i < count; ++i) {
    const auto seen = likes.seenBy(i);
    std::copy(seen.begin(), seen.end(), inputs[i].begin() + kHeard);
    inputs[i][kKnown] = wayTo(frames[i], i > 0 ? frames[i - 1] : frames[i] - second);
    inputs[i][kKnown + 1] = wayTo(frames[i], i + 1 < count ? frames[i + 1] : frames[i] + second);
    before[i] = onwards.step(inputs[i].data());
  }
  Direction back(kHitBackIn, kHitBackInBias, kHitBackOwn, kHitBackOwnBias);
  std::vector<HitNamed> out(count);
  for (std::size_t i = count; i-- > 0;) {
    const auto& after = back.step(inputs[i].data());
    std::array<float, kSight> sight{};
    std::copy_n(inputs[i].begin(), kKnown, sight.begin());
    std::copy(before[i].begin(), before[i].end(), sight.begin() + kKnown);
    std::copy(after.begin(), after.end(), sight.begin() + kKnown + kState);
    auto sums = begun(kHitOutBias);
    static_assert(sums.size() == kOutputs);
    addProduct(kHitOutWeights, sight.data(), sums.data());
    out[i] = {logistic(sums[0]), logistic(sums[1]), logistic(sums[2]),
              logistic(sums[3]), logistic(sums[4]), {}};
    for (std::size_t d = 0; d < kDrums; ++d) out[i].drums[d] = logistic(sums[5 + d]);
  }
  return out;
}

} // namespace tuvvo
