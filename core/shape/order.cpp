#include "shape/order.h"

#include "base/convert.h"
#include "base/hash.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

constexpr std::size_t kGuard = 1024; ///< frames after a loop's end: wider than any kernel

/// How alike two stretches are, −1 to 1.
double correlation(const Channels& sound, std::size_t a, std::size_t b, std::size_t frames) {
  double ab = 0, aa = 1e-12, bb = 1e-12;
  for (const auto& channel : sound)
    for (std::size_t i = 0; i < frames; ++i) {
      const double x = double(channel[a + i]), y = double(channel[b + i]);
      ab += x * y;
      aa += x * x;
      bb += y * y;
    }
  return ab / std::sqrt(aa * bb);
}

Baked loopedOf(Channels sound, const SliceLoop& loop, Hertz rate) {
  const auto frames = sound[0].size();
  const auto from = toWholeIn<std::size_t>(loop.from * double(frames), 0, frames);
  const auto to =
      std::max(from + 2, std::min(frames, toWhole<std::size_t>(loop.to * double(frames))));
  if (to > frames) return {std::make_shared<const Sound>(std::move(sound), rate), 0, 0};
  const std::size_t cross = std::clamp<std::size_t>(
      std::size_t(toFrames(loop.crossfade, rate).value), 1, (to - from) / 2);
  // Alike waves add up in amplitude, unlike ones in power (as with any crossfade).
  const double like = std::clamp(correlation(sound, to - cross, from, cross), 0.0, 1.0);
  for (auto& channel : sound) {
    channel.resize(to);
    for (std::size_t i = 0; i < cross; ++i) {
      const double in = (double(i) + 0.5) / double(cross), out = 1 - in;
      const double scale = 1 / std::sqrt(in * in + out * out + 2 * like * in * out);
      float& sample = channel[to - cross + i];
      sample = float(scale * (out * double(sample) + in * double(channel[from + i])));
    }
    const std::size_t start = from + cross;
    for (std::size_t i = 0; i < kGuard; ++i) channel.push_back(channel[start + i % (to - start)]);
  }
  return {std::make_shared<const Sound>(std::move(sound), rate), std::int64_t(from + cross),
          std::int64_t(to)};
}

} // namespace

void BakeOrder::setNames() {
  base = recipe.nameOver(sound->hash());
  name = base;
  if (!treated()) return;
  std::vector<double> all{frame.tempo.value,
                          double(frame.beatsPerBar),
                          double(frame.material),
                          double(loop.on),
                          loop.from,
                          loop.to,
                          loop.crossfade.value};
  for (const auto& t : treatments) {
    all.push_back(double(t.what.index()));
    all.push_back(double(t.on));
    for (const auto& each : typeOf(t).parameters) all.push_back(each.get(t));
    if (const auto* chop = t.as<treat::Chop>()) {
      all.push_back(double(chop->order.size()));
      all.insert(all.end(), chop->order.begin(), chop->order.end());
    }
  }
  ContentHasher hasher;
  hasher.add(base.data(), base.size());
  hasher.add(all.data(), all.size() * sizeof(double));
  name = hasher.hex();
}

BakeOrder BakeOrder::preview() const {
  BakeOrder quick = *this;
  quick.recipe.preview = true;
  quick.setNames();
  return quick;
}

Result<Baked> finishOrder(const BakeOrder& order, const SoundPtr& base, JobContext& job) {
  if (!order.treated()) return Baked{base, 0, 0};
  Channels sound(2);
  for (int c = 0; c < 2; ++c) {
    const auto samples = base->channel(c);
    sound[std::size_t(c)].assign(samples.begin(), samples.end());
  }
  for (const auto& treatment : order.treatments) {
    if (auto done = applyTreatment(sound, treatment, order.frame, job); !done) return done.error();
    if (job.cancelled()) return Error{"Baking was cancelled", "", ""};
  }
  if (sound[0].empty()) sound.assign(2, Samples(1, 0.0f)); // an order of no pieces
  if (order.loop.on) return loopedOf(std::move(sound), order.loop, order.frame.rate);
  return Baked{std::make_shared<const Sound>(std::move(sound), order.frame.rate), 0, 0};
}

} // namespace tuvvo
