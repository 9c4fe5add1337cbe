#include "shape/bake.h"

#include "base/convert.h"
#include "base/hash.h"
#include "shape/bake_parts.h"

#include <algorithm>
#include <cmath>

namespace tuvvo {

namespace {

void bakeRepitched(const Varispeed& player, const BakeRecipe& recipe, Channels& out) {
  const std::size_t frames = out[0].size();
  const double rate = player.rate();
  const auto& knots = recipe.line.knots;
  for (std::size_t k = 0; k + 1 < knots.size(); ++k) {
    const auto &a = knots[k], &b = knots[k + 1];
    const auto from =
        k == 0 ? 0 : std::min(frames, toNearest<std::size_t>(std::max(0.0, a.result) * rate));
    const auto to = k + 2 == knots.size()
                        ? frames
                        : std::min(frames, toNearest<std::size_t>(std::max(0.0, b.result) * rate));
    if (to <= from) continue;
    const double speed = (b.source - a.source) / (b.result - a.result);
    player.add(a.source + (double(from) / rate - a.result) * speed, speed, part(out[0], from, to),
               part(out[1], from, to));
  }
}

} // namespace

Material materialOf(const Source& source) {
  const auto kind = kindOf(source);
  return kind == SoundKind::Break ||
                 (kind == SoundKind::OneShot && source.heard && !source.heard->key)
             ? Material::Hits
             : Material::Tones;
}

std::vector<double> hitsOf(const Source& source) {
  std::vector<double> out;
  if (source.heard)
    for (const auto& onset : source.heard->onsets) out.push_back(onset.cut.value);
  return out;
}

std::string BakeRecipe::nameOver(const std::string& soundHash) const {
  std::vector<double> all{
      double(method),   pitch,           line.length, double(material),
      double(formants), double(preview), rate.value,  double(line.knots.size())};
  for (const auto& knot : line.knots) {
    all.push_back(knot.source);
    all.push_back(knot.result);
  }
  all.insert(all.end(), hits.begin(), hits.end());
  ContentHasher hasher;
  hasher.add(soundHash.data(), soundHash.size());
  hasher.add(all.data(), all.size() * sizeof(double));
  return hasher.hex();
}

Frames framesOf(const BakeRecipe& recipe) {
  return Frames(
      std::max<std::int64_t>(1, toNearest<std::int64_t>(recipe.line.length * recipe.rate.value)));
}

Result<SoundPtr> bake(const Sound& sound, const BakeRecipe& recipe, JobContext& job) {
  const auto frames = std::size_t(framesOf(recipe).value);
  Channels out(2, Samples(frames, 0.0f));
  const Varispeed player(sound, recipe.rate, recipe.line.sourceAt(0),
                         recipe.line.sourceAt(recipe.line.length));
  bool whole = true;
  switch (recipe.method) {
  case FitMethod::Repitch:
    bakeRepitched(player, recipe, out);
    break;
  case FitMethod::Respace:
    bakeRespaced(player, recipe, out);
    break;
  case FitMethod::Stretch:
    whole = bakeStretched(player, recipe, out, job);
    break;
  }
  if (!whole || job.cancelled()) return Error{"Baking was cancelled", "", ""};
  return std::make_shared<const Sound>(std::move(out), recipe.rate);
}

} // namespace tuvvo
