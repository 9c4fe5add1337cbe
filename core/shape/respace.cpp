// Re-spacing: slices whole, moved; gaps filled from the slice's own tail, overlaps cut.
#include "base/convert.h"
#include "shape/bake_parts.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr double kFadeInS = 0.001, kFadeOutS = 0.004;
constexpr double kTouchS = 0.0005; // slices this near have no gap
constexpr double kTailS = 0.15;    // of a slice's end, from which its tail goes on
constexpr double kAttackS = 0.04;  // a tail never goes back into the attack: that would be a flam
constexpr double kShortestTailS = 0.012;
constexpr double kJoinS = 0.006; // pieces of the tail are joined over this
constexpr double kFallDb = 2;    // what is filled in falls by this much
constexpr float kSilent = 3e-5f; // −90 dBFS: nothing to go on with

using Pair = std::array<Samples, 2>;

float levelOf(const Pair& samples, std::size_t from, std::size_t to) {
  double sum = 0;
  for (const auto& channel : samples)
    for (std::size_t i = from; i < to; ++i) sum += double(channel[i]) * double(channel[i]);
  return float(std::sqrt(sum / double(2 * std::max<std::size_t>(1, to - from))));
}

/// The place in [from, to) whose surroundings before it agree best with the slice's end.
std::size_t bestJoin(const Pair& slice, std::size_t from, std::size_t to, std::size_t end,
                     std::size_t join) {
  std::size_t best = from;
  double most = -2;
  for (std::size_t at = from; at < to; ++at) {
    double aa = 1e-12, bb = 1e-12, ab = 0;
    for (const auto& channel : slice)
      for (std::size_t i = 1; i <= join; i += 2) {
        const double x = double(channel[at - i]), y = double(channel[end - i]);
        aa += x * x;
        bb += y * y;
        ab += x * y;
      }
    const double alike = ab / std::sqrt(aa * bb);
    if (alike > most) {
      most = alike;
      best = at;
    }
  }
  return best;
}

/// Lets a slice go on to a length out of its own tail.
void extend(Pair& slice, std::size_t length, double rate) {
  const std::size_t end = slice[0].size();
  const auto join = toWhole<std::size_t>(kJoinS * rate);
  const auto tail = std::min(toWhole<std::size_t>(kTailS * rate), end);
  const std::size_t first =
      std::max({end - tail, std::min(end, toWhole<std::size_t>(kAttackS * rate)),
                std::min(end, end * 2 / 5)});
  const auto window = toWhole<std::size_t>(0.008 * rate);
  if (end < first + toWhole<std::size_t>(kShortestTailS * rate) + join || end < 2 * window) return;
  const float target = levelOf(slice, end - window, end);
  if (target < kSilent) return;
  // Levels along the tail, so that every piece can be brought to the level of the end.
  std::vector<float> gain(end - first);
  for (std::size_t i = first; i < end; ++i) {
    const std::size_t low = std::max(first, i > window / 2 ? i - window / 2 : 0);
    const std::size_t high = std::min(end, low + window);
    gain[i - first] = std::clamp(
        target / std::max(kSilent, levelOf(slice, std::min(low, end - window), high)), 0.05f, 2.0f);
  }
  // Pieces from further back and from nearer by take turns, so that no piece is heard to repeat.
  for (int turn = 0; slice[0].size() < length; ++turn) {
    const std::size_t reach = end - first - join;
    const std::size_t low = first + join + (turn % 3) * reach / 8;
    const std::size_t high = std::max(low + 1, first + join + reach * (turn % 2 ? 5 : 3) / 8);
    const std::size_t at = bestJoin(slice, low, std::min(high, end - join), end, join);
    const std::size_t now = slice[0].size();
    for (auto& channel : slice) {
      for (std::size_t i = 0; i < join; ++i) {
        const float mix = (float(i) + 0.5f) / float(join);
        float& sample = channel[now - join + i];
        const std::size_t from = at - join + i;
        sample = (1 - mix) * sample + mix * channel[from] * gain[from - first];
      }
      for (std::size_t from = at; from < end && channel.size() < length; ++from)
        channel.push_back(channel[from] * gain[from - first]);
    }
  }
  const auto fall = double(slice[0].size() - end);
  for (auto& channel : slice)
    for (std::size_t i = end; i < channel.size(); ++i)
      channel[i] *= float(std::pow(10, -kFallDb / 20 * double(i - end) / fall));
}

} // namespace

void bakeRespaced(const Varispeed& player, const BakeRecipe& recipe, Channels& out) {
  const double rate = player.rate();
  const std::size_t frames = out[0].size();
  const TimeLine& line = recipe.line;
  const double first = line.sourceAt(0),
               last = std::min(line.sourceAt(line.length), player.durationS());
  std::vector<double> blades;
  if (recipe.hits.empty() || recipe.hits.front() > first + 0.002) blades.push_back(first);
  for (double hit : recipe.hits)
    if (hit > first - 0.05 && hit < last) blades.push_back(hit);
  const auto fadeIn = toWhole<std::size_t>(kFadeInS * rate),
             fadeOut = toWhole<std::size_t>(kFadeOutS * rate);
  for (std::size_t i = 0; i < blades.size(); ++i) {
    const bool isLast = i + 1 == blades.size();
    const double at = std::max(0.0, line.resultAt(blades[i]));
    const double own = ((isLast ? last : blades[i + 1]) - blades[i]) / recipe.pitch;
    const double room = (isLast ? line.length : line.resultAt(blades[i + 1])) - at;
    // It comes in across its blade, and is all there when the attack comes.
    const auto from = toNearest<std::size_t>(std::max(0.0, at - kFadeInS / 2) * rate);
    if (from >= frames || room <= 0) continue;
    const bool touches = !isLast && std::abs(room - own) < kTouchS;
    const auto framesUntil = [&](double endS) {
      const auto end = std::min(std::int64_t(frames), toNearest<std::int64_t>(endS * rate));
      return std::size_t(std::max<std::int64_t>(0, end - std::int64_t(from)));
    };
    // A slice that touches the next goes on under its fade, so that both add up to the source.
    const std::size_t wanted = framesUntil(at + room);
    const std::size_t length =
        framesUntil(touches ? at + room + kFadeInS / 2 : at + std::min(own, room));
    if (length < fadeIn + 2) continue;
    Pair slice;
    for (auto& channel : slice) channel.assign(length, 0.0f);
    player.add(blades[i] + (double(from) / rate - at) * recipe.pitch, recipe.pitch, slice[0],
               slice[1]);
    if (!touches && wanted > length + fadeOut) extend(slice, wanted, rate);
    // What begins with the result has nothing to come in over: its attack may be there at once.
    const std::size_t n = slice[0].size(), out1 = touches ? fadeIn : std::min(fadeOut, n / 2);
    for (std::size_t c = 0; c < 2; ++c)
      for (std::size_t f = 0; f < n; ++f) {
        const float in = from == 0 ? 1.0f : (float(f) + 0.5f) / float(fadeIn);
        const float level = std::min({1.0f, in, (float(n - f) - 0.5f) / float(out1)});
        out[c][from + f] += level * slice[c][f];
      }
  }
}

} // namespace tuvvo
