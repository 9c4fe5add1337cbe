#include "shape/fit_to_beat.h"

#include "base/convert.h"
#include "shape/bake.h"
#include "shape/varispeed.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

void fadeEnds(Samples& samples, double rate) {
  const auto fade = std::min(samples.size() / 2, toWhole<std::size_t>(0.003 * rate));
  for (std::size_t i = 0; i < fade; ++i) {
    const float gain = (float(i) + 0.5f) / float(fade);
    samples[i] *= gain;
    samples[samples.size() - 1 - i] *= gain;
  }
}

} // namespace

std::optional<FitRow> wayToHear(const FitQuestion& question) {
  if (!question.bpm && !question.key) return std::nullopt;
  const auto rows = planFit(question);
  for (const auto& row : rows)
    if (std::abs(row.bpmErrorPercent) < 0.01) return row;
  return std::nullopt;
}

Result<FittedSound> fitToBeat(const Source& source, const FitRow& row, const BeatFrame& beat,
                              JobContext& job) {
  if (!source.sound)
    return Error{"The sound is missing", source.name, "Find it again, or take it out."};
  const double pitch = ratioOf(row.semitones + toSemitones(row.cents));
  const TimeLine line = timeLineOf(ResolvedSource(source), beat, pitch);
  BakeRecipe recipe;
  recipe.method = line.beats > 0 ? row.method : FitMethod::Repitch;
  recipe.line = line;
  recipe.pitch = pitch;
  recipe.hits = hitsOf(source);
  recipe.material = materialOf(source);
  recipe.preview = true;
  recipe.rate = beat.rate;
  const auto baked = bake(*source.sound, recipe, job);
  if (!baked) return Error{"Fitting was cancelled", source.name, ""};
  Channels out;
  for (int c = 0; c < 2; ++c)
    out.emplace_back((*baked)->channel(c).begin(), (*baked)->channel(c).end());
  for (auto& channel : out) fadeEnds(channel, beat.rate.value);
  return FittedSound{std::make_shared<Sound>(std::move(out), beat.rate), line.beats > 0,
                     line.beats};
}

} // namespace tuvvo
