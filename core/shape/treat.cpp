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

void fade(Channels& sound, const Treatment& treatment, const TreatFrame& frame) {
  const bool in = treatment.choice(kFadeWhere) == 0;
  const double curve = treatment.figure(kFadeCurve);
  const auto frames = sound[0].size();
  const double over = std::clamp(frame.framesOf(treatment.figure(kFadeBeats)), 1.0, double(frames));
  for (std::size_t i = 0; i < frames; ++i) {
    const double way = double(in ? i : frames - 1 - i);
    if (way >= over) continue;
    const auto gain = float(std::pow((way + 0.5) / over, curve));
    for (auto& channel : sound) channel[i] *= gain;
  }
}

Result<void> octave(Channels& sound, const Treatment& treatment, const TreatFrame& frame,
                    JobContext& job) {
  const int octaves = toNearest<int>(treatment.figure(kOctaveShift));
  const auto level = float(gainOf(Decibels(treatment.figure(kOctaveLevel))));
  const double seconds = double(sound[0].size()) / frame.rate.value;
  Channels copy = sound;
  if (octaves != 0) {
    BakeRecipe recipe;
    recipe.method = FitMethod::Stretch;
    recipe.line.knots = {{0, 0}, {seconds, seconds}};
    recipe.line.length = seconds;
    recipe.pitch = std::exp2(octaves);
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
double slownessOf(const Treatment& speed) { return speed.choice(kSpeedFactor) == 0 ? 2 : 0.5; }

/// Seconds of the sound that a speed treatment changes.
double speededS(double all, const Treatment& speed, const TreatFrame& frame) {
  const int bars = speed.choice(kSpeedBars);
  if (bars <= 0) return all;
  return std::min(all, frame.framesOf(double(bars) * frame.beatsPerBar) / slownessOf(speed) /
                           frame.rate.value);
}

Result<void> speed(Channels& sound, const Treatment& treatment, const TreatFrame& frame,
                   JobContext& job) {
  const double slower = slownessOf(treatment), rate = frame.rate.value;
  const int bars = treatment.choice(kSpeedBars);
  const double takes = speededS(double(sound[0].size()) / rate, treatment, frame);
  BakeRecipe recipe;
  recipe.method = FitMethod(treatment.choice(kSpeedMethod));
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
  switch (t.kind) {
  case TreatmentKind::Speed: {
    const double made = speededS(double(frames) / frame.rate.value, t, frame) * slownessOf(t);
    const auto changed =
        std::size_t(std::max<std::int64_t>(1, toNearest<std::int64_t>(made * frame.rate.value)));
    return t.choice(kSpeedBars) > 0 ? std::max(changed, frames) : changed;
  }
  case TreatmentKind::Stutter:
    return std::max(frames, stuttered(t, frame));
  case TreatmentKind::Swell:
    return toNearest<std::size_t>(frame.framesOf(t.figure(kSwellBeats))) +
           (t.choice(kSwellThen) == 0 ? frames : 0);
  case TreatmentKind::Chop:
    return choppedFrames(frames, t, frame);
  default:
    return frames;
  }
}

Result<void> treat(Channels& sound, const Treatment& treatment, const TreatFrame& frame,
                   JobContext& job) {
  if (!treatment.on || sound[0].empty()) return {};
  if (framesAfter(sound[0].size(), treatment, frame) > kMostTreatedFrames)
    return Error{std::string(typeOf(treatment.kind).name) + " would make more than ten minutes", "",
                 "Treat a shorter slice, or make its figures smaller."};
  if (job.cancelled()) return Error{"Baking was cancelled", "", ""};
  switch (treatment.kind) {
  case TreatmentKind::Reverse:
    for (auto& channel : sound) std::reverse(channel.begin(), channel.end());
    break;
  case TreatmentKind::Alternate:
    alternate(sound, treatment, frame);
    break;
  case TreatmentKind::Speed:
    return speed(sound, treatment, frame, job);
  case TreatmentKind::Octave:
    return octave(sound, treatment, frame, job);
  case TreatmentKind::SlowDown:
    slowDown(sound, treatment, frame);
    break;
  case TreatmentKind::StartUp:
    startUp(sound, treatment, frame);
    break;
  case TreatmentKind::Stutter:
    stutter(sound, treatment, frame);
    break;
  case TreatmentKind::Swell:
    swell(sound, treatment, frame);
    break;
  case TreatmentKind::Fade:
    fade(sound, treatment, frame);
    break;
  case TreatmentKind::Chop:
    chop(sound, treatment, frame);
    break;
  case TreatmentKind::Isolate:
    return isolate(sound, treatment.choice(kIsolateKeep) == 0 ? Kept::Hits : Kept::Tones,
                   Decibels(treatment.figure(kIsolateRest)), job);
  case TreatmentKind::Sides:
    keepSides(sound, treatment.choice(kSidesKeep) == 1);
    break;
  case TreatmentKind::Unknown:
    break;
  case TreatmentKind::Band:
    keepBand(sound, BandKept(treatment.choice(kBandKeep)), Hertz(treatment.figure(kBandLow)),
             Hertz(treatment.figure(kBandHigh)), frame.rate);
    break;
  }
  return {};
}

double leadBeats(const std::vector<Treatment>& treatments) {
  double lead = 0;
  for (const auto& t : treatments)
    if (t.on && t.kind == TreatmentKind::Swell) lead += t.figure(kSwellBeats);
  return lead;
}

} // namespace tuvvo
