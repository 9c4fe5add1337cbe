// Stretching by Rubber Band, and hits that keep their attacks.
#include "base/convert.h"
#include "shape/bake_parts.h"

#include <rubberband/RubberBandStretcher.h>

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

using RubberBand::RubberBandStretcher;
constexpr std::size_t kStretchBlock = 4096;
constexpr double kChunk = 1024;
constexpr std::size_t kQuickBlock = 512;
// Around a hit the source itself is heard: it comes in over the first of these, before the attack,
// and hands back over the last. Attacks of drums are over in 5 to 15 ms (common practice).
constexpr double kBeforeS = 0.010, kAfterS = 0.020, kCrossS = 0.004;

int optionsFor(const BakeRecipe& recipe) {
  int options =
      RubberBandStretcher::OptionProcessOffline | RubberBandStretcher::OptionThreadingNever;
  const bool tones = recipe.material == Material::Tones;
  options |= tones && !recipe.preview ? RubberBandStretcher::OptionEngineFiner
                                      : RubberBandStretcher::OptionEngineFaster;
  // Resetting every phase at a hit bends the tones between hits by 10 to 20 cents; only drums alone
  // can bear that.
  options |= tones ? RubberBandStretcher::OptionTransientsMixed
                   : RubberBandStretcher::OptionTransientsCrisp;
  if (recipe.formants) options |= RubberBandStretcher::OptionFormantPreserved;
  return options;
}

/// The source's own samples round every hit, exactly where the line puts the hit.
void keepAttacks(const Varispeed& player, const BakeRecipe& recipe, Channels& out) {
  const double rate = player.rate();
  const auto frames = std::int64_t(out[0].size());
  const auto cross = toWhole<std::int64_t>(kCrossS * rate);
  const auto& hits = recipe.hits;
  Samples left, right;
  for (std::size_t i = 0; i < hits.size(); ++i) {
    const double at = recipe.line.resultAt(hits[i]);
    // Neighbours share the time between them.
    double after = kAfterS, before = kBeforeS;
    if (i + 1 < hits.size())
      after = std::min(after, 0.6 * (recipe.line.resultAt(hits[i + 1]) - at));
    if (i > 0) before = std::min(before, 0.4 * (at - recipe.line.resultAt(hits[i - 1])));
    const auto from = toNearest<std::int64_t>((at - before) * rate);
    const auto n = toNearest<std::int64_t>((before + after) * rate);
    if (n < 2 * cross || from + n <= 0 || from >= frames) continue;
    left.assign(std::size_t(n), 0.0f);
    right = left;
    // The frame grid is met exactly: the first sample stands where its frame is.
    const double start = hits[i] + (double(from) / rate - at) * recipe.pitch;
    player.add(start, recipe.pitch, left, right);
    for (std::int64_t f = 0; f < n; ++f) {
      if (from + f < 0 || from + f >= frames) continue;
      double own = 1;
      if (from > 0 && f < cross) own = (double(f) + 0.5) / double(cross);
      if (n - f <= cross) own = std::min(own, (double(n - f) - 0.5) / double(cross));
      const auto place = std::size_t(from + f);
      out[0][place] = float((1 - own) * double(out[0][place]) + own * double(left[std::size_t(f)]));
      out[1][place] =
          float((1 - own) * double(out[1][place]) + own * double(right[std::size_t(f)]));
    }
  }
}

} // namespace

namespace {

/// The quick engine as it works live, block by block at the line's own slope: offline it spends its
/// stretch where that is heard least, and what is played wanders by tens of milliseconds, which no
/// preview may.
void stretchQuickly(const Varispeed& player, const BakeRecipe& recipe, const Channels& in,
                    Channels& out, JobContext& job) {
  const double rate = player.rate();
  const TimeLine& line = recipe.line;
  const double first = line.sourceAt(0);
  const auto frames = std::int64_t(in[0].size());
  // Smooth, so that no phase is reset (that bends tones by 10 ct), and a short window: of all
  // choices these put notes nearest to where the fine engine does.
  int options =
      RubberBandStretcher::OptionProcessRealTime | RubberBandStretcher::OptionThreadingNever |
      RubberBandStretcher::OptionEngineFaster | RubberBandStretcher::OptionTransientsSmooth |
      RubberBandStretcher::OptionWindowShort;
  if (recipe.formants) options |= RubberBandStretcher::OptionFormantPreserved;
  const auto slopeAt = [&](std::int64_t frame) {
    const double from = first + double(std::clamp<std::int64_t>(frame, 0, frames - 1)) / rate;
    const double slope = (line.resultAt(from + kQuickBlock / rate) - line.resultAt(from)) * rate /
                         double(kQuickBlock);
    return std::clamp(slope, 1 / kMostStretch, kMostStretch);
  };
  RubberBandStretcher stretcher(toWhole<std::size_t>(rate), 2, options, slopeAt(0), recipe.pitch);
  stretcher.setMaxProcessSize(kQuickBlock);
  auto late = std::int64_t(stretcher.getStartDelay()); // of the result, after the pad
  std::int64_t at = -std::int64_t(stretcher.getPreferredStartPad());
  std::size_t given = 0;
  std::array<Samples, 2> block{Samples(kQuickBlock), Samples(kQuickBlock)}, got;
  // Silence follows until all of it has come out.
  const std::int64_t last = frames + toWhole<std::int64_t>(rate * 2);
  while (given < out[0].size() && at < last && !job.cancelled()) {
    stretcher.setTimeRatio(slopeAt(at));
    for (std::size_t c = 0; c < 2; ++c)
      for (std::size_t i = 0; i < kQuickBlock; ++i) {
        const std::int64_t from = at + std::int64_t(i);
        block[c][i] = from >= 0 && from < frames ? in[c][std::size_t(from)] : 0.0f;
      }
    const float* const source[2] = {block[0].data(), block[1].data()};
    stretcher.process(source, kQuickBlock, false);
    at += std::int64_t(kQuickBlock);
    job.report(std::clamp(double(at) / double(frames), 0.0, 1.0));
    for (int ready; (ready = stretcher.available()) > 0;) {
      for (auto& channel : got) channel.resize(std::size_t(ready));
      float* const target[2] = {got[0].data(), got[1].data()};
      const std::size_t had = stretcher.retrieve(target, std::size_t(ready));
      for (std::size_t i = 0; i < had; ++i) {
        if (late > 0) {
          --late;
          continue;
        }
        if (given == out[0].size()) break;
        for (std::size_t c = 0; c < 2; ++c) out[c][given] = got[c][i];
        ++given;
      }
      if (had == 0) break;
    }
  }
  // It comes out a little quieter than it went in; the bake will not.
  const auto powerOf = [](const Channels& sound) {
    double sum = 1e-12;
    for (const auto& channel : sound)
      for (float sample : channel) sum += double(sample) * double(sample);
    return sum / double(sound[0].size());
  };
  const auto gain = float(std::clamp(std::sqrt(powerOf(in) / powerOf(out)), 0.8, 1.25));
  for (auto& channel : out)
    for (float& sample : channel) sample *= gain;
}

} // namespace

bool bakeStretched(const Varispeed& player, const BakeRecipe& recipe, Channels& out,
                   JobContext& job) {
  // First at the result's rate from the line's start on, then stretched.
  const double rate = player.rate();
  const TimeLine& line = recipe.line;
  const double first = line.sourceAt(0), last = line.sourceAt(line.length);
  const auto frames = toWhole<std::size_t>(std::max(1.0, std::round((last - first) * rate)));
  Channels in(2, Samples(frames, 0.0f));
  player.add(first, 1, in[0], in[1]);
  if (recipe.preview && recipe.material == Material::Tones) {
    stretchQuickly(player, recipe, in, out, job);
    return !job.cancelled();
  }
  const double ratio =
      std::clamp(double(out[0].size()) / double(frames), 1 / kMostStretch, kMostStretch);
  RubberBandStretcher stretcher(toWhole<std::size_t>(rate), 2, optionsFor(recipe), ratio,
                                recipe.pitch);
  stretcher.setExpectedInputDuration(frames);
  std::map<std::size_t, std::size_t> places;
  for (const auto& knot : line.knots) {
    const double from = (knot.source - first) * rate, to = knot.result * rate;
    // The stretcher counts in chunks and takes no key frame within the last one.
    if (from > kChunk && from < double(frames) - kChunk && to > kChunk &&
        to < double(out[0].size()) - kChunk)
      places[toWhole<std::size_t>(from)] = toWhole<std::size_t>(to);
  }
  if (!places.empty()) stretcher.setKeyFrameMap(places);
  std::size_t given = 0;
  const auto feed = [&](auto take) {
    for (std::size_t at = 0; at < frames && !job.cancelled(); at += kStretchBlock) {
      const std::size_t n = std::min(kStretchBlock, frames - at);
      const float* const block[2] = {in[0].data() + at, in[1].data() + at};
      take(block, n, at + n == frames);
    }
  };
  feed([&](const float* const* block, std::size_t n, bool end) { stretcher.study(block, n, end); });
  std::array<Samples, 2> got;
  std::size_t fed = 0;
  feed([&](const float* const* block, std::size_t n, bool end) {
    stretcher.process(block, n, end);
    job.report(double(fed += n) / double(frames));
    for (int ready; (ready = stretcher.available()) > 0;) {
      for (auto& channel : got) channel.resize(std::size_t(ready));
      float* const target[2] = {got[0].data(), got[1].data()};
      const std::size_t had = stretcher.retrieve(target, std::size_t(ready));
      for (std::size_t i = 0; i < had && given < out[0].size(); ++i, ++given)
        for (std::size_t c = 0; c < 2; ++c) out[c][given] = got[c][i];
      if (had == 0) break;
    }
  });
  if (job.cancelled()) return false;
  if (recipe.material == Material::Hits) keepAttacks(player, recipe, out);
  return true;
}

} // namespace tuvvo
