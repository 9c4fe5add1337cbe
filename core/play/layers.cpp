#include "base/random.h"
#include "play/score.h"

#include <numeric>

namespace tuvvo {

namespace {

/// Rounds in which every layer comes once; the last of one round is never the first of the next.
int atRandom(int count, Id key, std::uint32_t turn) {
  if (count < 3) return int(turn) % count; // without repeats, two can only take turns
  const auto round = [&](std::uint32_t which) {
    Random random((std::uint64_t(key) << 32) ^ which);
    std::array<int, kMostLayers> bag{};
    std::iota(bag.begin(), bag.begin() + count, 0);
    for (int i = count - 1; i > 0; --i)
      std::swap(bag[std::size_t(i)], bag[std::size_t(random.next() % std::uint64_t(i + 1))]);
    return bag;
  };
  const std::uint32_t which = turn / std::uint32_t(count);
  auto bag = round(which);
  // The swap touches the first two alone, so the last of a round is as it was drawn.
  if (which > 0 && round(which - 1)[std::size_t(count) - 1] == bag[0]) std::swap(bag[0], bag[1]);
  return bag[turn % std::uint32_t(count)];
}

} // namespace

int layersOf(const Score& score, const ScoreEvent& event, std::uint32_t turn,
             std::array<int, kMostLayers>& chosen) {
  const Patch& first = score.patches[std::size_t(event.patch)];
  const int count = std::min(first.layers, kMostLayers);
  if (first.mode == LayerMode::Together || count < 2) {
    std::iota(chosen.begin(), chosen.begin() + count, event.patch);
    return count;
  }
  int layer = 0;
  if (first.mode == LayerMode::InTurn)
    layer = int(turn % std::uint32_t(count));
  else if (first.mode == LayerMode::AtRandom)
    layer = atRandom(count, first.key, turn);
  else // the softest-reaching that reaches the velocity; the loudest-reaching where none does
    for (int i = 1; i < count; ++i) {
      const auto reach = [&](int at) {
        return score.patches[std::size_t(event.patch + at)].loudest;
      };
      const bool reaches = reach(i) >= event.gain - 1e-6f,
                 reached = reach(layer) >= event.gain - 1e-6f;
      if (reaches && reached ? reach(i) < reach(layer) : reach(i) > reach(layer)) layer = i;
    }
  chosen[0] = event.patch + layer;
  return 1;
}

} // namespace tuvvo
