#include "listen/beat_sense.h"

#include "listen/beat_weights.h"
#include "listen/recurrent.h"

namespace tuvvo {

namespace {

constexpr std::size_t kSensed = kBeatState;
using SeenBothWays = std::array<float, 2 * kSensed>; ///< what both directions know of a moment

/// Both directions over all moments.
template <std::size_t Input, typename InputOf>
std::vector<SeenBothWays> bothWays(std::size_t count, const InputOf& inputOf,
                                   GatedUnits<Input, kSensed> onwards,
                                   GatedUnits<Input, kSensed> back) {
  std::vector<SeenBothWays> out(count);
  for (std::size_t t = 0; t < count; ++t) {
    const auto& state = onwards.step(inputOf(t));
    std::copy(state.begin(), state.end(), out[t].begin());
  }
  for (std::size_t t = count; t-- > 0;) {
    const auto& state = back.step(inputOf(t));
    std::copy(state.begin(), state.end(), out[t].begin() + kSensed);
  }
  return out;
}

} // namespace

Matrix senseInputs(const OnsetStrength& strength, const Harmony& harmony) {
  const Matrix& picture = strength.picture;
  Matrix out(picture.rows, kSenseInputs);
  for (int t = 0; t < picture.rows; ++t) {
    const auto row = out.row(t);
    auto next = std::copy(picture.row(t).begin(), picture.row(t).end(), row.begin());
    const double at = t / BeatSense::kRate;
    for (const double reach : kSenseReachS) {
      const auto change = harmony.changeAt(at - reach, at, at + reach);
      *next++ = float(change.all);
      *next++ = float(change.bass);
    }
  }
  return out;
}

BeatSense senseBeats(Matrix inputs) {
  const auto count = std::size_t(inputs.rows);
  for (int t = 0; t < inputs.rows; ++t) {
    const auto row = inputs.row(t);
    for (std::size_t i = 0; i < kSenseInputs; ++i) row[i] = (row[i] - kBeatMean[i]) * kBeatScale[i];
  }
  using First = GatedUnits<kSenseInputs, kSensed>;
  const auto first = bothWays<kSenseInputs>(
      count, [&](std::size_t t) { return inputs.row(int(t)).data(); },
      First(kBeatOnwards1In, kBeatOnwards1InBias, kBeatOnwards1Own, kBeatOnwards1OwnBias),
      First(kBeatBack1In, kBeatBack1InBias, kBeatBack1Own, kBeatBack1OwnBias));
  using Second = GatedUnits<2 * kSensed, kSensed>;
  const auto second = bothWays<2 * kSensed>(
      count, [&](std::size_t t) { return first[t].data(); },
      Second(kBeatOnwards2In, kBeatOnwards2InBias, kBeatOnwards2Own, kBeatOnwards2OwnBias),
      Second(kBeatBack2In, kBeatBack2InBias, kBeatBack2Own, kBeatBack2OwnBias));
  BeatSense out;
  for (const SeenBothWays& seen : second) {
    auto sums = begun(kBeatOutBias);
    addProduct(kBeatOutWeights, seen.data(), sums.data());
    out.beat.push_back(logistic(sums[0]));
    out.one.push_back(logistic(sums[1]));
  }
  return out;
}

} // namespace tuvvo
