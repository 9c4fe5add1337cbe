#include "shape/treat.h"

#include "base/convert.h"
#include "listen/onsets.h"
#include "shape/bake.h"
#include "shape/bands.h"
#include "shape/isolate.h"
#include "shape/treat_parts.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

void fade(Channels& sound, const treat::Fade& fade, const TreatFrame& frame) {
  const bool in = fade.where == treat::Fade::Where::In;
  const auto frames = sound[0].size();
  const double over = std::clamp(frame.framesOf(fade.beats), 1.0, double(frames));
  for (std::size_t i = 0; i < frames; ++i) {
    const double way = double(in ? i : frames - 1 - i);
    if (way >= over) continue;
    const auto gain = float(std::pow((way + 0.5) / over, fade.curve));
    for (auto& channel : sound) channel[i] *= gain;
  }
}

Result<void> octave(Channels& sound, const treat::Octave& octave, const TreatFrame& frame,
                    JobContext& job) {
  const auto level = float(gainOf(octave.level));
  const double seconds = double(sound[0].size()) / frame.rate.value;
  Channels copy = sound;
  if (octave.octaves != 0) {
    BakeRecipe recipe;
    recipe.method = FitMethod::Stretch;
    recipe.line.knots = {{0, 0}, {seconds, seconds}};
    recipe.line.length = seconds;
    recipe.pitch = std::exp2(octave.octaves);
    recipe.material = frame.material;
    recipe.rate = frame.rate;
    auto baked = bake(Sound(sound, frame.rate), recipe, job);
    if (!baked) return baked.error();
    for (int c = 0; c < 2; ++c) {
      const auto made = (*baked)->channel(c);
      copy[std::size_t(c)].assign(made.begin(), made.end());
      copy[std::size_t(c)].resize(sound[0].size(), 0.0f);
    }
  }
  for (std::size_t c = 0; c < 2; ++c)
    for (std::size_t i = 0; i < sound[c].size(); ++i) sound[c][i] += level * copy[c][i];
  return {};
}

/// How many times as long a speed treatment makes what it changes.
double slownessOf(const treat::Speed& speed) {
  return speed.to == treat::Speed::To::HalfTime ? 2 : 0.5;
}

/// Seconds of the sound that a speed treatment changes.
double speededS(double all, const treat::Speed& speed, const TreatFrame& frame) {
  if (speed.bars <= 0) return all;
  return std::min(all, frame.framesOf(double(speed.bars) * frame.beatsPerBar) / slownessOf(speed) /
                           frame.rate.value);
}

Result<void> speed(Channels& sound, const treat::Speed& speed, const TreatFrame& frame,
                   JobContext& job) {
  const double slower = slownessOf(speed), rate = frame.rate.value;
  const int bars = speed.bars;
  const double takes = speededS(double(sound[0].size()) / rate, speed, frame);
  BakeRecipe recipe;
  recipe.method = speed.method;
  recipe.line.length = takes * slower;
  recipe.line.knots = {{0, 0}, {takes, takes * slower}};
  recipe.material = frame.material;
  recipe.rate = frame.rate;
  const Sound given(sound, frame.rate);
  if (recipe.method == FitMethod::Respace || recipe.material == Material::Hits)
    for (const auto& onset : OnsetFinder().find(given, job))
      if (onset.cut.value < takes - 0.005) recipe.hits.push_back(std::max(0.0, onset.cut.value));
  auto baked = bake(given, recipe, job);
  if (!baked) return baked.error();
  // Over some bars only: after them it goes on where it would have been.
  const auto made = std::size_t((*baked)->frames().value);
  const auto fadeFrames = toWhole<std::size_t>(0.002 * rate);
  for (int c = 0; c < 2; ++c) {
    auto& channel = sound[std::size_t(c)];
    const auto samples = (*baked)->channel(c);
    Samples out(samples.begin(), samples.end());
    if (bars > 0) {
      out.resize(std::max(made, channel.size()), 0.0f);
      for (std::size_t i = made; i < channel.size(); ++i)
        out[i] = channel[i] * float(std::min(1.0, (double(i - made) + 0.5) / double(fadeFrames)));
      for (std::size_t i = 0; i < std::min(fadeFrames, made); ++i)
        if (made < channel.size())
          out[made - 1 - i] *= float((double(i) + 0.5) / double(fadeFrames));
    }
    channel = std::move(out);
  }
  return {};
}

} // namespace

std::size_t framesAfter(std::size_t frames, const Treatment& t, const TreatFrame& frame) {
  if (!t.on || frames == 0) return frames;
  if (const auto* speed = t.as<treat::Speed>()) {
    const double made =
        speededS(double(frames) / frame.rate.value, *speed, frame) * slownessOf(*speed);
    const auto changed =
        std::size_t(std::max<std::int64_t>(1, toNearest<std::int64_t>(made * frame.rate.value)));
    return speed->bars > 0 ? std::max(changed, frames) : changed;
  }
  if (const auto* stutter = t.as<treat::Stutter>())
    return std::max(frames, stuttered(*stutter, frame));
  if (const auto* swell = t.as<treat::Swell>())
    return toNearest<std::size_t>(frame.framesOf(swell->beats)) +
           (swell->then == treat::Swell::Then::Sound ? frames : 0);
  if (const auto* chop = t.as<treat::Chop>()) return choppedFrames(frames, *chop, frame);
  return frames;
}

namespace {

/// Does what a treatment's settings say, by their kind.
struct Treating {
  Channels& sound;
  const TreatFrame& frame;
  JobContext& job;

  Result<void> operator()(const treat::Reverse&) const {
    for (auto& channel : sound) std::reverse(channel.begin(), channel.end());
    return {};
  }
  Result<void> operator()(const treat::Speed& what) const { return speed(sound, what, frame, job); }
  Result<void> operator()(const treat::Octave& what) const {
    return octave(sound, what, frame, job);
  }
  Result<void> operator()(const treat::Isolate& what) const {
    return isolate(sound, what.keep == treat::Isolate::Keep::Hits ? Kept::Hits : Kept::Tones,
                   what.rest, job);
  }
  Result<void> operator()(const treat::Sides& what) const {
    keepSides(sound, what.keep == treat::Sides::Keep::Sides);
    return {};
  }
  Result<void> operator()(const treat::Band& what) const {
    keepBand(sound, BandKept(what.keep), what.low, what.high, frame.rate);
    return {};
  }
  Result<void> operator()(const treat::Unknown&) const { return {}; }
  Result<void> operator()(const treat::Alternate& what) const {
    alternate(sound, what, frame);
    return {};
  }
  Result<void> operator()(const treat::SlowDown& what) const {
    slowDown(sound, what, frame);
    return {};
  }
  Result<void> operator()(const treat::StartUp& what) const {
    startUp(sound, what, frame);
    return {};
  }
  Result<void> operator()(const treat::Stutter& what) const {
    stutter(sound, what, frame);
    return {};
  }
  Result<void> operator()(const treat::Swell& what) const {
    swell(sound, what, frame);
    return {};
  }
  Result<void> operator()(const treat::Fade& what) const {
    fade(sound, what, frame);
    return {};
  }
  Result<void> operator()(const treat::Chop& what) const {
    chop(sound, what, frame);
    return {};
  }
};

} // namespace

Result<void> applyTreatment(Channels& sound, const Treatment& treatment, const TreatFrame& frame,
                            JobContext& job) {
  if (!treatment.on || sound[0].empty()) return {};
  if (framesAfter(sound[0].size(), treatment, frame) > kMostTreatedFrames)
    return Error{std::string(typeOf(treatment).name) + " would make more than ten minutes", "",
                 "Treat a shorter slice, or make its figures smaller."};
  if (job.cancelled()) return Error{"Baking was cancelled", "", ""};
  return std::visit(Treating{sound, frame, job}, treatment.what);
}

double leadBeats(const std::vector<Treatment>& treatments) {
  double lead = 0;
  for (const auto& t : treatments)
    if (const auto* swell = t.as<treat::Swell>(); swell && t.on) lead += swell->beats;
  return lead;
}

} // namespace tuvvo
